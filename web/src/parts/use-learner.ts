// Who looks: asked once, and shared by the bar and the views.

import { useQuery } from "@tanstack/react-query";
import { api, said } from "../api/client";

export const LEARNER = {
  queryKey: ["learner"],
  queryFn: () => said(api.GET("/api/learner")),
  staleTime: 60_000,
};

export function useLearner() {
  return useQuery(LEARNER);
}
