import { QueryClient } from "@tanstack/react-query";
import createClient from "openapi-fetch";
import type { components, operations, paths } from "./schema";

export type Schemas = components["schemas"];
export type Attempt = Schemas["AttemptSummary"];
export type AttemptPage = Schemas["AttemptPage"];
export type ScorePage = Schemas["ScorePage"];
export type Exercise = Schemas["ExerciseSettings"];
export type StartKind = NonNullable<Exercise["start"]>;
export type Tolerance = NonNullable<Exercise["tolerance"]>;
export type Behaviour = NonNullable<Exercise["behaviours"]>[number];
export type Mode = Scene["tuner"]["mode"];
export type ReplayPage = Schemas["ReplayPage"];
export type Scene = Schemas["Scene"];
export type Aid = Scene["aid"];
export type Instrument = Schemas["CatalogueInstrument"];
export type Plan = Schemas["PlanPage"];
export type Verdict = Schemas["Believed"]["verdict"];
export type PlanQuery = operations["show_plan"]["parameters"]["query"];
export type RankingQuery = operations["rank_methods"]["parameters"]["query"];
export type Ranked = Schemas["RankedMethod"];
export type SittingPage = Schemas["SittingPage"];
export type DrillScene = Schemas["DrillScene"];
export type DrillAction = Schemas["DrillAct"]["action"];
export type Interval = SittingPage["interval"];
export type Sure = Schemas["JudgedTrial"]["sure"];
export type BenchAction = Schemas["Act"]["action"];

export const api = createClient<paths>();

export const queries = new QueryClient({
  defaultOptions: { queries: { retry: 2, retryDelay: 800, staleTime: 0 } },
});

const NO_LINE = "The server does not answer. Check that it runs; this page tries again by itself.";

/** Unwrap a reply, or throw its sentence. */
export async function said<T>(reply: Promise<{ data?: T; error?: unknown }>): Promise<T> {
  let answer: { data?: T; error?: unknown };
  try {
    answer = await reply;
  } catch {
    throw new Error(NO_LINE);
  }
  if (answer.error !== undefined) {
    const { detail } = answer.error as { detail?: unknown };
    throw new Error(typeof detail === "string" ? detail : NO_LINE);
  }
  return answer.data as T;
}
