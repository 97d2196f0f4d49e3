// The steps of what one can do, and one to try.

import { useMutation, useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { api, queries, said, type Schemas } from "../api/client";
import { player } from "../sound/player";
import { naming } from "../words/notes";

export type Step = Schemas["StepSeen"];

export function useSteps() {
  return useQuery({
    queryKey: ["steps"],
    queryFn: () => said(api.GET("/api/path")),
    staleTime: 2000,
  });
}

/** Begin what a step is tried with; on the bench it sounds as soon as it is there. */
export function useTryStep() {
  const navigate = useNavigate();
  return useMutation({
    mutationFn: (step: string) => {
      void player.start().catch(() => undefined); // within the press
      return said(
        api.POST("/api/path/{step}", {
          params: { path: { step } },
          body: { naming: naming() },
        }),
      );
    },
    onSuccess: ({ attempt, kind }) => {
      void queries.invalidateQueries({ queryKey: ["attempts"] });
      void queries.invalidateQueries({ queryKey: ["learner"] }); // a newcomer is somebody now
      if (kind === "drill") navigate(`/listen/${attempt}`);
      else navigate(`/tune/${attempt}`, { state: { sounds: true } });
    },
  });
}
