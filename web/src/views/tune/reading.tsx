import { useEffect, useRef, useState } from "react";
import styled from "styled-components";
import type { Scene } from "../../api/client";
import { Button } from "../../parts/button";
import { ink, phone } from "../../theme/theme";
import { capital, howFar } from "../../words/formats";
import { nameOf } from "../../words/names";
import type { SessionState } from "./session";
import { MODES } from "./tuner-sheet";
import { EDGE_PX, EDGE_SHARE, heightOf, MIDDLE } from "../../picture/draw-water";
import type { WaterLog } from "../../picture/water-log";

const Panel = styled.div`
  text-align: right;
  line-height: 1.15;
  strong {
    display: block;
    font-size: 2.75rem;
    font-weight: 750;
    letter-spacing: -0.01em;
  }
  strong sub {
    font-size: 0.5em;
    vertical-align: -0.1em;
  }
  span {
    color: ${ink.quiet};
    font-size: 1.0625rem;
  }
  button {
    margin-left: auto;
    min-height: 44px;
    font-size: 0.9375rem;
  }
  min-height: 4.5rem;
  ${phone} {
    min-height: 2.9rem; /* nothing moves when it comes and goes */
    text-align: left;
    strong {
      display: inline;
      font-size: 2.5rem;
      margin-right: 0.5rem;
    }
    button {
      margin-left: 0;
    }
  }
`;
const Unseen = styled.p`
  position: absolute;
  width: 1px;
  height: 1px;
  overflow: hidden;
  clip-path: inset(50%);
`;

const RIGHT_PX = 64;
const SWELL_PX = 26;
const LOOK_EVERY_MS = 200;
const SPEAK_EVERY_MS = 1600;
const COUNTED_TO_HZ = 15;

/** Whether anything can be heard right now, as the speaker plays it; looked at a few times a second. */
function useAudible(log: WaterLog): boolean {
  const [audible, setAudible] = useState(false);
  useEffect(() => {
    const timer = setInterval(() => setAudible(log.audible()), LOOK_EVERY_MS);
    return () => clearInterval(timer);
  }, [log]);
  return audible;
}

function beatsWords(hz: number): string {
  if (hz > COUNTED_TO_HZ) return "too many";
  return hz < 0.05 ? "under 0.1" : hz.toFixed(1);
}

/** Slowing, quickening or neither, against the beat before the last change. */
function useTrend(hz: number | null): string {
  const [kept, keep] = useState<{ hz: number | null; trend: string }>({ hz, trend: "" });
  if (hz !== kept.hz) {
    const compared = hz !== null && kept.hz !== null;
    keep({ hz, trend: compared ? (hz < (kept.hz ?? 0) ? "slowing" : "quickening") : "" });
  }
  return kept.trend;
}

export type ReadingProps = {
  scene: Scene;
  log: WaterLog;
  /** The string looked at. */
  label: string;
  /** The two sides that sound together. */
  pair: string;
  shown: SessionState["shown"];
  onTuner: () => void;
};

/** What matters, as far as the aid shows it, and the same in words for a reader aloud. */
export function Reading({ scene, log, label, pair, shown, onTuner }: ReadingProps) {
  const audible = useAudible(log);
  const beats = audible ? (scene.pair?.beats_hz ?? null) : null;
  const ripple = audible ? (scene.pair?.ripple ?? null) : null;
  const cents = audible ? scene.offset_cents : null;
  const trend = useTrend(scene.pair?.beats_hz ?? null);
  const wanted = scene.pair?.wanted_hz ?? 0;
  const aim = wanted < 0.05 ? "" : `, to be ${wanted.toFixed(1)}`;
  const unit = beats === null ? "" : `beats a second${aim}${trend ? `, ${trend}` : ""}`;
  const where = cents === null ? "" : howFar(cents);
  if (scene.aid === "tuner") return <TunerReading scene={scene} shown={shown} onTuner={onTuner} />;

  let spoken = cents === null ? "" : `${capital(label)} ${where}`;
  if (beats !== null) {
    const rate = beats > COUNTED_TO_HZ ? "too fast to count" : `${beatsWords(beats)} a second`;
    spoken += `${spoken ? ", " : ""}beating ${rate}${trend ? `, ${trend}` : ""}`;
  } else if (ripple !== null && cents === null)
    spoken = `${capital(pair)}: ${nameOf("ripples", ripple)}`;
  const faded = scene.aid !== "ear" && !audible && log.samples.length > 0;
  if (faded) spoken = "Too quiet. Play it again.";
  return (
    <>
      <Panel data-reading>
        {scene.aid === "ear" || (ripple === null && cents === null) ? (
          <span>{faded ? "Too quiet. Play it again." : ""}</span>
        ) : cents === null ? (
          <>
            <strong data-testid="ripple">{capital(nameOf("ripples", ripple ?? "still"))}</strong>
            <span>{capital(pair)}</span>
            {beats === null ? null : (
              <span>
                , <span data-testid="beats">{beatsWords(beats)}</span> {unit}
              </span>
            )}
          </>
        ) : (
          <span>
            {beats === null ? null : (
              <>
                <span data-testid="beats">{beatsWords(beats)}</span> {unit}
              </>
            )}
          </span>
        )}
      </Panel>
      <Spoken words={spoken} />
    </>
  );
}

type TunerProps = { scene: Scene; shown: SessionState["shown"]; onTuner: () => void };

/** What the tuner shows: the note first, then the offset, and how it is set. */
function TunerReading({ scene, shown, onTuner }: TunerProps) {
  const words = shown ? howFar(shown.cents, 1) : "";
  const should = shown?.should_cents ? howFar(shown.should_cents, 1) : null;
  return (
    <>
      <Panel data-reading>
        {should ? <span data-testid="should-show">Should show {should}</span> : null}
        <Button weight="bare" onPress={onTuner}>
          Tuner at {scene.tuner.a4_hz} Hz, {MODES[scene.tuner.mode].toLowerCase()}
        </Button>
      </Panel>
      <Spoken
        words={
          shown
            ? `The tuner shows ${shown.name}, ${words}${should ? `; it should show ${should}` : ""}`
            : ""
        }
      />
    </>
  );
}

const Rides = styled.strong`
  position: absolute;
  right: ${RIGHT_PX}px;
  transform: translateY(-100%);
  font-size: 2.75rem;
  line-height: 1;
  font-weight: 750;
  letter-spacing: -0.01em;
  white-space: nowrap;
  pointer-events: none;
  /* the waterline does not run through figures */
  -webkit-text-stroke: 6px ${ink.sheet};
  paint-order: stroke fill;
  sub {
    font-size: 0.5em;
    vertical-align: -0.1em;
  }
  ${phone} {
    font-size: 2.5rem;
  }
`;

/** A place on the surface of the water, as it is drawn; never above its upper edge. */
function surface(cents: number): string {
  const middle = `${100 * MIDDLE}%`;
  const reach = `(${middle} - min(${EDGE_PX}px, ${100 * EDGE_SHARE}%))`;
  return `max(3rem, calc(${middle} - ${heightOf(cents).toFixed(3)} * ${reach} - ${SWELL_PX}px))`;
}

type RidingProps = { scene: Scene; log: WaterLog; shown: SessionState["shown"] };

/** The number that matters, riding on the surface: what the level or the tuner shows. */
export function Riding({ scene, log, shown }: RidingProps) {
  const audible = useAudible(log);
  if (scene.aid === "tuner") {
    if (!shown) return null;
    const [, note, octave] = /^(.*?)(-?\d+)?$/.exec(shown.name) ?? [];
    return (
      <Rides data-testid="tuner" style={{ top: surface(shown.cents) }}>
        {note}
        {octave ? <sub>{octave}</sub> : null} {howFar(shown.cents, 1)}
      </Rides>
    );
  }
  const cents = audible ? scene.offset_cents : null;
  if (cents === null || scene.aid === "ear") return null;
  return (
    <Rides data-testid="offset" style={{ top: surface(cents) }}>
      {capital(howFar(cents))}
    </Rides>
  );
}

/** A live region that speaks at most once in a while, and always the newest words. */
function Spoken({ words }: { words: string }) {
  const [said, say] = useState("");
  const latest = useRef(words);
  useEffect(() => {
    latest.current = words;
  });
  useEffect(() => {
    const timer = setInterval(() => say(latest.current), SPEAK_EVERY_MS);
    return () => clearInterval(timer);
  }, []);
  return <Unseen aria-live="polite">{said}</Unseen>;
}
