import { useEffect, useRef, useState } from "react";
import styled from "styled-components";
import type { Scene } from "../../api/client";
import { ink, phone } from "../../theme/theme";
import { capital } from "../words";
import type { WaterLog } from "./water-log";

const Panel = styled.div`
  text-align: right;
  line-height: 1.15;
  strong {
    display: block;
    font-size: 2.75rem;
    font-weight: 750;
    letter-spacing: -0.01em;
  }
  span {
    color: ${ink.quiet};
    font-size: 1.0625rem;
  }
  min-height: 4.5rem;
  ${phone} {
    min-height: 2.9rem;
    text-align: left;
    strong {
      display: inline;
      font-size: 2.5rem;
      margin-right: 0.5rem;
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

const LOOK_EVERY_MS = 200;
const SPEAK_EVERY_MS = 1600;

/** Whether the pair can be heard right now, as the speaker plays it; looked at a few times a second. */
function useAudible(log: WaterLog): boolean {
  const [audible, setAudible] = useState(false);
  useEffect(() => {
    const timer = setInterval(() => setAudible(log.audible()), LOOK_EVERY_MS);
    return () => clearInterval(timer);
  }, [log]);
  return audible;
}

function beatsWords(hz: number): string {
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

function fadedWords(scene: Scene, audible: boolean, log: WaterLog): string {
  if (scene.aid === "ear" || audible || log.samples.length === 0) return "";
  return "Faded. Sound it again.";
}

export type ReadingProps = { scene: Scene; log: WaterLog; label: string };

/** The number that matters, as far as the aid shows it, and the same in words for a reader aloud. */
export function Reading({ scene, log, label }: ReadingProps) {
  const audible = useAudible(log);
  const pair = audible ? scene.pair : null;
  const beats = pair?.beats_hz ?? null;
  const cents = pair?.offset_cents ?? null;
  const trend = useTrend(scene.pair?.beats_hz ?? null);
  const unit = beats === null ? "" : `beats a second${trend ? `, ${trend}` : ""}`;
  const size = cents === null ? "" : Math.abs(cents).toFixed(Math.abs(cents) < 9.95 ? 1 : 0);
  const where =
    cents === null || size === "0.0" ? "still" : `${size} cents ${cents < 0 ? "low" : "high"}`;

  let spoken = "";
  if (beats !== null) {
    spoken = `${cents === null ? "" : `${capital(label)} ${where}, `}beating ${beatsWords(beats)} a second${trend ? `, ${trend}` : ""}`;
  }
  return (
    <>
      {scene.aid === "ear" || beats === null ? (
        <Panel data-reading>
          <span>{fadedWords(scene, audible, log)}</span>
        </Panel>
      ) : (
        <Panel data-reading>
          {cents === null ? (
            <>
              <strong data-testid="beats">{beatsWords(beats)}</strong>
              <span>{unit}</span>
            </>
          ) : (
            <>
              <strong data-testid="offset">{capital(where)}</strong>
              <span>
                <span data-testid="beats">{beatsWords(beats)}</span> {unit}
              </span>
            </>
          )}
        </Panel>
      )}
      <Spoken words={spoken} />
    </>
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
