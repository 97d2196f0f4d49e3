// The exercises of a studio, and what was given of them.

import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { api, said, type Schemas } from "../../api/client";

export type Task = Schemas["TaskPage"];
export type TaskSettings = Schemas["TaskSettings"];
export type Part = TaskSettings["parts"][number];
export type Given = Schemas["GivenTask"];
export type ClassPage = Schemas["ClassPage"];

export function useTasks(studio: string) {
  return useQuery({
    queryKey: ["studio", studio, "tasks"],
    queryFn: () =>
      said(api.GET("/api/studios/{studio_id}/tasks", { params: { path: { studio_id: studio } } })),
  });
}

export function useGiven(studio: string) {
  return useInfiniteQuery({
    queryKey: ["studio", studio, "given"],
    queryFn: ({ pageParam: after }) =>
      said(
        api.GET("/api/studios/{studio_id}/given", {
          params: { path: { studio_id: studio }, query: { after } },
        }),
      ),
    initialPageParam: null as string | null,
    getNextPageParam: (page) => page.after,
  });
}

export function useTask(studio: string, task: string) {
  return useQuery({
    queryKey: ["studio", studio, "task", task],
    queryFn: () =>
      said(
        api.GET("/api/studios/{studio_id}/tasks/{task_id}", {
          params: { path: { studio_id: studio, task_id: task } },
        }),
      ),
  });
}

export function useResults(studio: string, given: string, part: number) {
  return useQuery({
    queryKey: ["studio", studio, "results", given, part],
    queryFn: () =>
      said(
        api.GET("/api/studios/{studio_id}/given/{assignment_id}", {
          params: { path: { studio_id: studio, assignment_id: given }, query: { part } },
        }),
      ),
    refetchInterval: 10_000, // while a class is at it
  });
}

/** What of a task can be sent back. */
export function settingsOf({ name, note, starts, counts, parts }: Task): TaskSettings {
  return { name, note: note ?? "", starts: starts ?? "own", counts: counts ?? "best", parts };
}
