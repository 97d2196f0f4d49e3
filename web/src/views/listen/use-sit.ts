// Beginning a sitting at a drill.

import { useMutation } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { api, queries, said, type Schemas } from "../../api/client";

export type Wanted = Schemas["SittingWanted"];

export function useSit() {
  const navigate = useNavigate();
  return useMutation({
    mutationFn: (wanted: Wanted) => said(api.POST("/api/drills", { body: wanted })),
    onSuccess: (begun) => {
      void queries.invalidateQueries({ queryKey: ["drills"] });
      navigate(`/listen/${begun.id}`);
    },
  });
}
