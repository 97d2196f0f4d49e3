// What of an exercise is not as usual, in a line.

import type { Exercise, Instrument } from "../../api/client";
import { methodOf, nameOf } from "../../words/names";
import { REALISM, realismOf } from "./realism";

/** “After a month, Level”; what there is to choose where all is as usual. */
export function differs(exercise: Exercise, made: Instrument | undefined): string {
  const { method = "unison", start = "hair", tolerance = "settled", aid, tuning } = exercise;
  const realism = realismOf(exercise.behaviours ?? []);
  const found = [
    tuning && tuning !== "standard"
      ? (made?.tunings.find((one) => one.id === tuning)?.name ?? "Your own notes")
      : "",
    method === "unison"
      ? ""
      : (methodOf(method)?.name ?? (method === "free" ? "Free play" : "Find the fault")),
    start === "hair" ? "" : nameOf("starts", start),
    tolerance === "settled" ? "" : nameOf("tolerances", tolerance),
    !aid || aid === "ripple" ? "" : nameOf("aids", aid),
    realism === "plain" ? "" : realism === "own" ? "your own realism" : REALISM[realism].words,
  ].filter((words) => words !== "");
  return found.length > 0 ? found.join(", ") : "the method, the start, the help, how real it is";
}
