// What to do today: the plan, and going on with it.

import { useMutation, useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { api, queries, said, type Schemas } from "../api/client";
import { player } from "../sound/player";
import { naming } from "../words/notes";

export type TodayPlan = Schemas["TodayPlan"];
export type TodayItem = Schemas["TodayItem"];
export type Aim = Schemas["AimSettings"];

const KEY = ["today"];
export const TODAY = {
  queryKey: KEY,
  queryFn: () => said(api.GET("/api/today")),
  staleTime: 2000,
};

export function useToday() {
  return useQuery(TODAY);
}

/** Say what to practise for. */
export function useAim() {
  return useMutation({
    mutationFn: (aim: Aim) => said(api.PUT("/api/today/aim", { body: aim })),
    onSuccess: () => queries.invalidateQueries({ queryKey: KEY }),
  });
}

/** Go on with an item of the plan; a plan that is only thought of is made by that. */
export function useGoOn() {
  const navigate = useNavigate();
  return useMutation({
    mutationFn: async ({ aim, plan, number }: { aim: Aim; plan: TodayPlan; number: number }) => {
      void player.start().catch(() => undefined); // within the press
      const id = plan.id ?? (await said(api.POST("/api/today/plans", { body: aim }))).id ?? "";
      return said(
        api.POST("/api/today/plans/{plan_id}/items/{number}", {
          params: { path: { plan_id: id, number } },
          body: { naming: naming() },
        }),
      );
    },
    onSuccess: (plan, { number }) => {
      queries.setQueryData<Schemas["TodayPage"]>(KEY, (page) => page && { ...page, plan });
      void queries.invalidateQueries({ queryKey: ["attempts"] });
      const item = plan.items[number];
      if (item?.attempt)
        navigate(item.kind === "drill" ? `/listen/${item.attempt}` : `/tune/${item.attempt}`);
    },
  });
}

/** What is pressed to go on with an item. */
export function pressOf(item: TodayItem): string {
  if (item.kind === "rest") return "Rested";
  return item.state === "begun" ? "Go on" : "Start";
}
