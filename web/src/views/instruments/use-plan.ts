import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, said } from "../../api/client";
import { type Asked, planQuery } from "./asked";

/** The plan for what is asked; the last one stays on screen until the next has come. */
export function usePlan(asked: Asked, method: string = asked.method) {
  const query = planQuery(asked, method);
  return useQuery({
    queryKey: ["plan", query],
    queryFn: () => said(api.GET("/api/plan", { params: { query } })),
    placeholderData: keepPreviousData,
    retry: false,
  });
}

/** Where the plan can be fetched as a file. */
export function planFile(asked: Asked, kind: "pdf" | "json", method: string): string {
  const search = new URLSearchParams();
  for (const [key, value] of Object.entries(planQuery(asked, method)))
    search.set(key, String(value));
  return `/api/plan.${kind}?${search.toString()}`;
}
