// What has to be said over the water, in every working screen: a broken line, or a caution.

import { Button } from "../../parts/button";
import { Notice } from "../../parts/notice";
import type { Bench } from "./commands";
import type { Link } from "./session";

export type OverWaterProps = {
  bench: Bench;
  link: Link;
  notice: string | null;
  onTakeBack: () => void;
};

/** The words that matter most now, the first one first; none where nothing has to be said. A caution
 * stays, whatever else has to be said: what was refused stands below it. */
export function warningsOf({ bench, link, notice }: OverWaterProps): string[] {
  if (link === "away" || link === "joining") {
    return [notice ?? "The line is down. Everything you did is kept; it goes on by itself."];
  }
  const { scene } = bench;
  const words = link === "live" ? [scene.caution, notice, scene.felt] : [notice];
  return words.filter((one) => one !== null);
}

/** The same as notices, and the way back where it is played in another window. */
export function Warnings(props: OverWaterProps) {
  return (
    <div>
      {warningsOf(props).map((words) => (
        <Notice key={words}>{words}</Notice>
      ))}
      {props.link === "moved" ? (
        <Button onPress={props.onTakeBack}>Play it here instead</Button>
      ) : null}
    </div>
  );
}
