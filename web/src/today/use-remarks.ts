// What teachers have remarked: on an attempt, and what of it waits to be done again.

import { useMutation, useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { api, queries, said, type Schemas } from "../api/client";
import { howFar } from "../words/formats";
import { named } from "../words/notes";

export type Remark = Schemas["RemarkPage"];

export function useRemarks(attempt: string) {
  return useQuery({
    queryKey: ["remarks", attempt],
    queryFn: () =>
      said(
        api.GET("/api/attempts/{attempt_id}/remarks", {
          params: { path: { attempt_id: attempt } },
        }),
      ),
  });
}

export function useRemarksToAnswer() {
  return useQuery({ queryKey: ["remarks"], queryFn: () => said(api.GET("/api/remarks")) });
}

/** Do the spot of a remark again, from where its step was met. */
export function useAgain() {
  const navigate = useNavigate();
  return useMutation({
    mutationFn: (remark: string) =>
      said(
        api.POST("/api/remarks/{remark_id}/answer", { params: { path: { remark_id: remark } } }),
      ),
    onSuccess: (begun) => {
      void queries.invalidateQueries({ queryKey: ["remarks"] });
      navigate(`/tune/${begun.id}`);
    },
  });
}

/** A moment of an attempt, in minutes and seconds. */
export const momentName = (s: number) =>
  `${Math.floor(s / 60)}:${String(Math.floor(s % 60)).padStart(2, "0")}`;

/** How the string of a remark was then, and after its spot was done again. */
export function cameToWords({ label, cents, came_to, is_done }: Remark): string | null {
  if (!is_done) return null;
  if (cents === null || came_to === null) return "Done again.";
  return `${named(label)} was ${howFar(cents)}. Done again, it is ${howFar(came_to)}.`;
}
