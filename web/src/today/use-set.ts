// What a teacher has set: to be begun, and gone on with.

import { useMutation, useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { api, queries, said, type Schemas } from "../api/client";
import { player } from "../sound/player";
import { naming } from "../words/notes";

export type SetTask = Schemas["SetTask"];
export type SetPart = Schemas["SetPart"];

const KEY = ["set"];

/** All that is set for the learner, what is due first first. */
export function useSet() {
  return useQuery({
    queryKey: KEY,
    queryFn: () => said(api.GET("/api/set")),
    staleTime: 2000,
  });
}

/** One of them, by its id or by its code. */
export function useSetTask(key: string) {
  return useQuery({
    queryKey: [...KEY, key],
    queryFn: () => said(api.GET("/api/set/{given_id}", { params: { path: { given_id: key } } })),
  });
}

type Wanted = { id: string; number: number; part: SetPart; called?: string };

/** Begin a part, or go on with it; what is read is opened. */
export function useBeginPart() {
  const navigate = useNavigate();
  return useMutation({
    mutationFn: async ({ id, number, part, called = "" }: Wanted) => {
      if (part.kind === "read") return null;
      void player.start().catch(() => undefined); // within the press
      return said(
        api.POST("/api/set/{given_id}/parts/{number}", {
          params: { path: { given_id: id, number } },
          body: { naming: naming(), called },
        }),
      );
    },
    onSuccess: (begun, { part }) => {
      void queries.invalidateQueries({ queryKey: KEY });
      void queries.invalidateQueries({ queryKey: ["attempts"] });
      if (begun) navigate(`/${begun.practice === "bench" ? "tune" : "listen"}/${begun.id}`);
      else navigate(readingOf(part));
    },
  });
}

function readingOf({ page, instrument, method }: SetPart): string {
  const query = new URLSearchParams({ instrument, ...(method ? { method } : {}) });
  return `/instruments/${page === "before" ? "before" : "plan"}?${query}`;
}

/** What is pressed to go on with a part. */
export function wordsOf(part: SetPart): string {
  if (part.kind === "read") return "Read";
  if (part.open) return "Go on";
  if (part.done) return "Once more";
  return part.times > 0 ? "Again" : "Start";
}

/** How far a part is, in words. */
export function doneWords(part: SetPart): string {
  if (part.kind === "read") return "to read";
  if (part.of === 1) return part.done ? "done" : part.open ? "begun" : "to do";
  return `${part.times} of ${part.of} times done`;
}

export function dueWords(due: string | null): string {
  if (due === null) return "";
  const at = new Date(due);
  const words = at.toLocaleDateString("en-GB", { day: "numeric", month: "long" });
  return at.getTime() < Date.now() ? `was due on ${words}` : `by ${words}`;
}
