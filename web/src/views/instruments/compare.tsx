import { useEffect, useRef, useState } from "react";
import { useOutletContext } from "react-router";
import styled from "styled-components";
import { api, type Plan, queries, said } from "../../api/client";
import { Button } from "../../parts/button";
import { Notice } from "../../parts/notice";
import { Pick } from "../../parts/pick";
import { useServing } from "../../parts/use-serving";
import { NO_SOUND, player } from "../../sound/player";
import { tablet } from "../../theme/theme";
import { methodOf, methodOptions } from "../../words/names";
import { type Asked, planQuery } from "./asked";
import { OutcomePicture } from "./outcome-picture";
import type { Prepared } from "./prepared";
import { usePlan } from "./use-plan";
import { named } from "../../words/notes";

const Sides = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 1.5rem 2.5rem;
  align-items: start;
  max-width: 84rem;
  ${tablet} {
    grid-template-columns: minmax(0, 1fr);
  }
`;
const Side = styled.section`
  display: grid;
  gap: 0.75rem;
  min-width: 0;
`;
const Both = styled.section`
  display: flex;
  flex-wrap: wrap;
  align-items: end;
  gap: 0.75rem 1rem;
  margin-bottom: 1.5rem;
`;
const FADE_S = 0.05;

type Hear = (method: string, chord: string) => void;

/** Play a chord as a method leaves it; and what to say where that cannot be. */
function useChordSound(askedOf: (method: string) => Asked): [Hear, string | null] {
  const [wrong, setWrong] = useState<string | null>(null);
  const voices = useRef<number[]>([]);
  useEffect(() => () => player.hush(), []);
  const hear: Hear = (method, chord) => {
    setWrong(null);
    player.start().catch(() => setWrong(NO_SOUND));
    const query = { ...planQuery(askedOf(method), method), chord };
    queries
      .fetchQuery({
        queryKey: ["chord", query],
        queryFn: () => said(api.GET("/api/plan/chord", { params: { query } })),
        staleTime: Number.POSITIVE_INFINITY,
      })
      .then(({ sounds }) => {
        const before = voices.current.map((voice) => ({
          kind: "release" as const,
          voice,
          fade_s: FADE_S,
        }));
        player.play([...before, ...sounds], null);
        voices.current = sounds.flatMap((one) => (one.kind === "start" ? [one.voice] : []));
      })
      .catch((error: Error) => setWrong(error.message));
  };
  return [hear, wrong];
}

/** Whether two plans leave a string at different pitches. */
function differs(one: Plan | undefined, other: Plan | undefined): boolean {
  if (!one || !other) return false;
  return other.strings.some((string, n) => {
    const beside = one.strings[n]?.equal_cents ?? 0;
    return Math.abs(string.equal_cents - beside) > 0.5;
  });
}

/** Compare methods: all strings against equal temperament, two methods side by side. */
export function Compare() {
  const { asked, change } = useOutletContext<Prepared>();
  const { serving } = useServing(asked.instrument, asked.notes || asked.tuning);
  const first = usePlan(asked);
  const method = asked.method || first.data?.method || "mixed";
  const [chosen, setChosen] = useState<string | null>(null);
  const own = { ...asked, temperament: "own" as const };
  const each = usePlan(own, "each");
  const fifths = usePlan(own, "fifths");
  const harmonics = usePlan(own, "harmonics");
  const offered = [each, harmonics, fifths].map((one) => one.data);
  const other = chosen ?? offered.find((one) => differs(first.data, one))?.method ?? "each";
  const second = usePlan(own, other);
  const [chord, setChord] = useState<string | null>(null);
  const [hearChord, mute] = useChordSound((by) => (by === other ? own : asked));
  const edge = Math.max(
    10,
    ...[first, second].flatMap((one) =>
      (one.data?.strings ?? []).map((string) => Math.abs(string.equal_cents) * 1.25),
    ),
  );
  const chords = first.data?.chords ?? [];
  const chosenChord = chords.includes(chord ?? "") ? chord : (chords[0] ?? null);
  const hear = (by: Plan | undefined) =>
    chosenChord !== null && by ? (
      <Button
        weight="solid"
        onPress={() => hearChord(by === second.data ? other : method, chosenChord)}
      >
        Hear {named(chosenChord)} by{" "}
        {methodOf(by.method)?.name.split(" (")[0]?.toLowerCase() ?? by.method}
      </Button>
    ) : null;
  return (
    <>
      {chosenChord !== null ? (
        <Both>
          <Pick
            label="A chord to hear in both"
            value={chosenChord}
            options={chords.map((name) => ({ id: name, words: named(name) }))}
            onPick={setChord}
          />
          {hear(first.data)}
          {hear(second.data)}
          {mute ? <Notice>{mute}</Notice> : null}
        </Both>
      ) : null}
      <Sides>
        <Side aria-label="The first method">
          <Pick
            label="This method"
            value={method}
            options={serving(methodOptions())}
            onPick={(chosen) => change({ method: chosen })}
          />
          {first.error ? <Notice>{first.error.message}</Notice> : null}
          {first.data && !first.error ? (
            <OutcomePicture plan={first.data} edgeCents={edge} />
          ) : null}
        </Side>
        <Side aria-label="The second method">
          <Pick
            label="Beside this one"
            value={other}
            options={serving(methodOptions())}
            onPick={setChosen}
          />
          {second.error ? <Notice>{second.error.message}</Notice> : null}
          {second.data && !second.error ? (
            <OutcomePicture plan={second.data} edgeCents={edge} />
          ) : null}
        </Side>
      </Sides>
    </>
  );
}
