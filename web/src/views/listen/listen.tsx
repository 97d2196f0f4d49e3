import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import styled from "styled-components";
import { api, type Interval, said, type Schemas } from "../../api/client";
import { Button } from "../../parts/button";
import { Choice } from "../../parts/choice";
import { Notice } from "../../parts/notice";
import { Pick } from "../../parts/pick";
import { ink, phone } from "../../theme/theme";
import { capital } from "../../words/formats";
import { named, naming } from "../../words/notes";
import { useSit } from "./use-sit";

const Main = styled.main`
  display: grid;
  gap: 1.25rem;
  align-content: start;
  padding: 1.75rem 1.5rem;
  max-width: 66rem;
  ${phone} {
    padding: 1rem;
  }
`;
const On = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 18rem) minmax(0, 14rem);
  gap: 1rem;
`;
const Rows = styled.ul`
  border-top: 1.5px solid ${ink.text};
  li {
    display: grid;
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr) auto auto;
    gap: 0.5rem 1.5rem;
    align-items: center;
    padding: 0.9rem 0;
    border-bottom: 1px solid ${ink.line};
  }
  .options {
    grid-column: 1 / -1;
    display: flex;
    flex-wrap: wrap;
    gap: 0.75rem;
  }
  ${phone} {
    li {
      grid-template-columns: minmax(0, 1fr) auto auto;
    }
    .heard {
      grid-column: 1 / -1;
      grid-row: 2;
    }
  }
`;
const Quiet = styled.p`
  color: ${ink.quiet};
`;

const KEPT = "meldrin:listen";
type On = { instrument: string; string: number };

function stored(): On {
  try {
    const { instrument, string } = JSON.parse(localStorage.getItem(KEPT) ?? "") as On;
    if (typeof instrument === "string" && Number.isInteger(string)) return { instrument, string };
  } catch {
    // nothing is kept yet
  }
  return { instrument: "viola", string: 3 };
}

const INTERVALS: Record<Interval, string> = {
  unison: "Unison",
  octave: "Octave",
  fifth: "Fifth",
  fourth: "Fourth",
  third: "Major third",
};
const TRUTHS = [
  { id: "pure", words: "Pure" },
  { id: "equal", words: "Equal temperament" },
] as const;

/** The ear drills: which, on which string, and what has been heard so far. */
export function Listen() {
  const drills = useQuery({ queryKey: ["drills"], queryFn: () => said(api.GET("/api/drills")) });
  const made = useQuery({
    queryKey: ["instruments"],
    queryFn: () => said(api.GET("/api/instruments")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const [on, setOn] = useState(stored);
  const choose = (next: On) => {
    localStorage.setItem(KEPT, JSON.stringify(next));
    setOn(next);
  };
  const sit = useSit();
  const instrument = made.data?.find((one) => one.id === on.instrument) ?? made.data?.[0];
  const error = drills.error ?? made.error ?? sit.error;
  const string = instrument?.strings.find((one) => one.number === on.string)
    ? on.string
    : (instrument?.strings[0]?.number ?? 1);
  return (
    <Main>
      <h1>Train the ear alone.</h1>
      <Quiet>Short drills, two minutes each. No points: each one tells what you hear.</Quiet>
      {error ? <Notice>{error.message}</Notice> : null}
      {instrument && made.data ? (
        <On>
          <Pick
            label="Instrument"
            value={instrument.id}
            options={made.data.map((one) => ({ id: one.id, words: one.name }))}
            onPick={(id) => choose({ instrument: id, string: 1 })}
          />
          <Pick
            label="String"
            value={String(string)}
            options={instrument.strings.map((one) => ({
              id: String(one.number),
              words: capital(named(one.label)),
            }))}
            onPick={(number) => choose({ instrument: instrument.id, string: Number(number) })}
          />
        </On>
      ) : null}
      {drills.data && instrument ? (
        <Rows>
          {drills.data.drills.map((drill) => (
            <Row
              key={drill.id}
              drill={drill}
              heard={drills.data.heard.filter(
                (one) =>
                  one.drill === drill.id && (drill.measured || one.instrument === instrument.id),
              )}
              left={drills.data.left.find((one) => one.drill === drill.id)}
              isBusy={sit.isPending}
              onStart={(interval, truth) =>
                sit.mutate({
                  drill: drill.id,
                  instrument: instrument.id,
                  string,
                  interval,
                  truth,
                  naming: naming(),
                })
              }
            />
          ))}
        </Rows>
      ) : null}
    </Main>
  );
}

type RowProps = {
  drill: Schemas["DrillOption"];
  heard: Schemas["HeardSoFar"][];
  /** A sitting at it that was left before its end. */
  left: Schemas["SittingLeft"] | undefined;
  isBusy: boolean;
  onStart: (interval: Interval, truth: "pure" | "equal") => void;
};

function Row({ drill, heard, left, isBusy, onStart }: RowProps) {
  const navigate = useNavigate();
  const [interval, setInterval] = useState<Interval>(drill.interval);
  const [truth, setTruth] = useState<"pure" | "equal">("pure");
  return (
    <li>
      <div>
        <h2>{drill.name}</h2>
        <Quiet>{drill.about}</Quiet>
      </div>
      <div className="heard">
        {heard.length === 0 ? (
          <Quiet>Not tried yet</Quiet>
        ) : (
          heard.slice(0, 3).map((one) => (
            <p key={one.known_by}>
              <strong>{capital(one.says)}</strong>
              {one.where ? ` on ${one.where}` : ""}
            </p>
          ))
        )}
      </div>
      {left ? (
        <Button aria-label={`Go on: ${left.name}`} onPress={() => navigate(`/listen/${left.id}`)}>
          Go on
        </Button>
      ) : (
        <span />
      )}
      <Button
        weight="solid"
        isDisabled={isBusy}
        aria-label={`Start: ${drill.name}`}
        onPress={() => onStart(interval, truth)}
      >
        Start
      </Button>
      {drill.intervals.length > 0 ? (
        <div className="options">
          <Choice
            label="Interval"
            value={interval}
            options={drill.intervals.map((id) => ({ id, words: INTERVALS[id] }))}
            onChoose={setInterval}
          />
          <Choice label="True means" value={truth} options={TRUTHS} onChoose={setTruth} />
        </div>
      ) : null}
    </li>
  );
}
