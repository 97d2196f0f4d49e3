// Plays what a round asks or tells, and keeps the water that goes with it.

import { useEffect, useRef, useState } from "react";
import { api, said, type Schemas } from "../api/client";
import { WaterLog } from "../picture/water-log";
import { NO_SOUND } from "../sound/player";
import { fromBase64, Samples } from "../sound/samples";

type Sound = Schemas["RoundSound"];
type Beating = Schemas["RoundBeating"];

const DRAWN_EVERY_MS = 16;
const LOUD = 0.05; // as loud as a pair is at first
const FADES_S = 2.5;

export function soundOf(round: string): Promise<Sound> {
  return said(api.GET("/api/rounds/{round_id}/sound", { params: { path: { round_id: round } } }));
}

/** A player of one page: `at_s` is how far it has come, null while nothing plays. */
export function useRoundPlayer() {
  const samples = useRef<Samples | null>(null);
  const [log] = useState(() => new WaterLog());
  const [playing, setPlaying] = useState<{ beganMs: number; lasts_s: number } | null>(null);
  const [nowMs, setNow] = useState(0);
  const [problem, setProblem] = useState<string | null>(null);
  const rippling = useRef<ReturnType<typeof setInterval> | undefined>(undefined);
  useEffect(
    () => () => {
      clearInterval(rippling.current);
      samples.current?.close();
      samples.current = null;
    },
    [],
  );
  useEffect(() => {
    if (playing === null) return undefined;
    const timer = setInterval(() => {
      const now = performance.now();
      setNow(now);
      if (now - playing.beganMs > playing.lasts_s * 1000) setPlaying(null);
    }, 60);
    return () => clearInterval(timer);
  }, [playing]);

  /** To be called from a press, so that the browser lets it sound. */
  const play = async (fetched: () => Promise<Sound>, water: Beating[] = []): Promise<boolean> => {
    const player = (samples.current ??= new Samples());
    player.start();
    try {
      const sound = await fetched();
      const wave = fromBase64(sound.samples);
      const heard = await player.play(wave, sound.rate);
      setProblem(heard === "mute" ? NO_SOUND : null);
      clearInterval(rippling.current);
      log.clear();
      setPlaying({ beganMs: performance.now(), lasts_s: wave.length / sound.rate });
      if (water.length > 0) rippling.current = ripple(log, water, performance.now());
      return heard === "plays";
    } catch (error) {
      setProblem((error as Error).message);
      return false;
    }
  };
  const hush = () => {
    clearInterval(rippling.current);
    samples.current?.stop();
    setPlaying(null);
  };
  const at_s = playing ? (Math.max(nowMs, playing.beganMs) - playing.beganMs) / 1000 : null;
  return { play, hush, at_s, log, problem };
}

/** Draw the beats of what plays, at their rate, from when it began. */
function ripple(log: WaterLog, water: Beating[], beganMs: number) {
  const timer = setInterval(() => {
    const at_s = (performance.now() - beganMs) / 1000;
    const now = water.find((one) => one.begin_s <= at_s && at_s < one.end_s);
    if (now) {
      const since_s = at_s - now.begin_s;
      const level = LOUD * Math.exp(-since_s / FADES_S);
      log.hear({
        kind: "beat",
        at: performance.now() / 1000,
        phase: 2 * Math.PI * now.beats_hz * since_s - Math.PI / 2, // still lies on the line
        hz: now.beats_hz,
        own: level,
        other: level,
        depth: now.depth,
      });
    }
    if (water.every((one) => at_s >= one.end_s)) {
      clearInterval(timer);
      log.hear({ kind: "silent" });
    }
  }, DRAWN_EVERY_MS);
  return timer;
}
