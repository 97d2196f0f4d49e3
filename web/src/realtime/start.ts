// Starting an exercise: it sounds as soon as the bench is there, since a press asked for it.

import { useMutation } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { type Aid, api, type Exercise, queries, said } from "../api/client";
import { player } from "../sound/player";
import { naming } from "../words/notes";

export type Start = { exercise: Exercise; seed?: number | null };

export function useStart() {
  const navigate = useNavigate();
  return useMutation({
    mutationFn: ({ exercise, seed = null }: Start) => {
      void player.start().catch(() => undefined); // within the press; the bench waits for it before the first sound
      return said(
        api.POST("/api/attempts", {
          body: { ...exercise, naming: naming() },
          params: { query: { seed } },
        }),
      );
    },
    onSuccess: (attempt) => {
      void queries.invalidateQueries({ queryKey: ["attempts"] });
      void queries.invalidateQueries({ queryKey: ["learner"] }); // a newcomer is somebody now
      navigate(`/tune/${attempt.id}`, { state: { sounds: true } });
    },
  });
}

const AID_KEY = "meldrin:aid";

/** How much the picture helps to begin with; kept in this browser. */
export function storedAid(): Aid {
  const stored = localStorage.getItem(AID_KEY);
  return stored === "ear" || stored === "level" || stored === "tuner" ? stored : "ripple";
}

export function storeAid(aid: Aid): void {
  localStorage.setItem(AID_KEY, aid);
}

const MOST_SEED = 2 ** 31 - 1;

/** An address that starts the same exercise, its strings as far out, on any machine. */
export function linkTo(exercise: Exercise, seed: number | null): string {
  const query = new URLSearchParams({
    exercise: JSON.stringify(exercise),
    seed: String(seed ?? Math.floor(Math.random() * MOST_SEED)),
  });
  return `${location.origin}/tune?${query}`;
}
