// What can be heard on the first page before anything is practised: any string, and three wobbles.

import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import styled from "styled-components";
import { api, said, type Schemas } from "../api/client";
import { InstrumentPicture, playedString, type StringNow } from "../parts/instrument";
import { Button } from "../parts/button";
import { Notice } from "../parts/notice";
import { Water } from "../picture/water";
import type { WaterLog } from "../picture/water-log";
import { NO_SOUND, player } from "../sound/player";
import { ink, phone } from "../theme/theme";
import { Calming } from "./calming";
import { named } from "../words/notes";

const FADE_S = 0.03;
const RINGS_MS = 7000;
const NOTHING: StringNow = {
  fret: 0,
  touched: false,
  ringing: false,
  along: false,
  knob_deg: 0,
  fine: 0,
  stuck: false,
  slack: false,
  broken: false,
  off: false,
};

type Sounds = Schemas["OpenString"]["sounds"];

/** Play these; what sounded in the same voices before fades first. */
function play(sounds: Sounds, before: number[], at: number | null): void {
  const release = before.map((voice) => ({ kind: "release" as const, voice, fade_s: FADE_S }));
  player.play([...release, ...sounds], at);
}

type HeardProps = {
  instrument: string;
  /** These strings alone; all where it is absent. */
  only?: readonly number[];
};

/** An instrument in tune: any string can be touched and heard. */
export function HeardInstrument({ instrument, only }: HeardProps) {
  const made = useQuery({
    queryKey: ["strings", instrument],
    queryFn: () =>
      said(
        api.GET("/api/instruments/{instrument_id}/strings", {
          params: { path: { instrument_id: instrument } },
        }),
      ),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const [ringing, setRinging] = useState<Record<number, number>>({});
  const [strikes, setStrikes] = useState<Record<number, number>>({});
  const [mute, setMute] = useState(false);
  if (!made.data) return null;
  const { strings, frets, sounds } = made.data;
  const pluck = (number: number, at: number) => {
    player.start().catch(() => setMute(true));
    const found = sounds.find((one) => one.number === number)?.sounds ?? [];
    const voices = found.flatMap((one) => (one.kind === "start" ? [one.voice] : []));
    play(found, number in strikes ? voices : [], at);
    setStrikes((before) => ({ ...before, [number]: (before[number] ?? 0) + 1 }));
    setRinging((before) => ({ ...before, [number]: (before[number] ?? 0) + 1 }));
    setTimeout(
      () => setRinging((before) => ({ ...before, [number]: (before[number] ?? 1) - 1 })),
      RINGS_MS,
    );
  };
  return (
    <>
      <InstrumentPicture
        strings={strings
          .filter((one) => !only || only.includes(one.number))
          .map((one) => playedString({ ...one, label: named(one.label) }, ""))
          .toSorted((a, b) => a.number - b.number)}
        frets={frets}
        now={(number) => ({ ...NOTHING, ringing: (ringing[number] ?? 0) > 0 })}
        strikes={strikes}
        selected={null}
        onPlay={pluck}
      />
      <p>{only ? "Touch a string to hear it." : "Touch any string to hear it."}</p>
      {mute ? <Notice>{NO_SOUND}</Notice> : null}
    </>
  );
}

const Basin = styled.div`
  position: relative;
  height: clamp(9rem, 24svh, 15rem);
  background: ${ink.sheet};
  & > svg {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
  }
  ${phone} {
    height: 7rem;
  }
`;

/** The water under the first words: at rest, or what the wobble that plays really does. */
export function WobbleWater({ log }: { log: WaterLog }) {
  const [isHeard, setHeard] = useState(false);
  useEffect(() => {
    const timer = setInterval(() => setHeard(log.samples.some((one) => one.ripple !== null)), 250);
    return () => clearInterval(timer);
  }, [log]);
  return (
    <Basin>
      <Water log={log} aid="ripple" />
      {isHeard ? null : <Calming />}
    </Basin>
  );
}

const WOBBLES = [
  ["fast", "Fast"],
  ["slow", "Slow"],
  ["still", "Still"],
] as const;
const Three = styled.div`
  display: flex;
  gap: 0.5rem;
  button {
    flex: 1;
    justify-content: center;
  }
  button[aria-pressed="true"] {
    border-color: ${ink.text};
    border-width: 2.5px;
  }
`;
const SAYS: Record<string, string> = {
  fast: "Far apart: the loudness comes and goes four times a second.",
  slow: "Nearly the same: it comes and goes slowly.",
  still: "The same: nothing wobbles. The string is in tune.",
};
const Said = styled.p`
  min-height: 3rem;
  color: ${ink.quiet};
`;

/** Three sounds that tell what a wobble is. */
export function Wobbles({ log }: { log: WaterLog }) {
  const wobbles = useQuery({
    queryKey: ["wobbles"],
    queryFn: () => said(api.GET("/api/wobbles")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const [playing, setPlaying] = useState<Schemas["WobbleSound"]["id"] | null>(null);
  const [mute, setMute] = useState(false);
  // What sounds here does not go on on another page.
  useEffect(
    () => () => {
      player.watch(null);
      player.hush();
    },
    [],
  );
  const hear = (id: Schemas["WobbleSound"]["id"]) => {
    const found = wobbles.data?.find((one) => one.id === id);
    if (!found) return;
    player.start().catch(() => setMute(true));
    log.clear();
    play(found.sounds, playing ? [found.own_voice, found.other_voice] : [], null);
    player.watch({
      own: [found.own_voice, found.own_partial - 1],
      other: [found.other_voice, found.other_partial - 1],
    });
    setPlaying(id);
  };
  return (
    <>
      <Three role="group" aria-label="Hear a wobble">
        {WOBBLES.map(([id, words]) => (
          <Button
            key={id}
            aria-pressed={playing === id}
            isDisabled={!wobbles.data}
            onPress={() => hear(id)}
          >
            {words}
          </Button>
        ))}
      </Three>
      <Said role="status">{playing ? SAYS[playing] : "Three sounds of a string and a fork."}</Said>
      {mute ? <Notice>{NO_SOUND}</Notice> : null}
    </>
  );
}
