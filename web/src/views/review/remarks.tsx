// Remarks in their place beside a replay: a teacher pins them, a pupil does their spots again.

import { useMutation, useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import styled from "styled-components";
import { api, queries, said } from "../../api/client";
import { Button } from "../../parts/button";
import { Typed } from "../../parts/entry";
import { Notice } from "../../parts/notice";
import { useKeys } from "../../parts/use-keys";
import { cameToWords, momentName, type Remark, useAgain } from "../../today/use-remarks";
import { ink } from "../../theme/theme";

const MOST_LETTERS = 300;

const Listed = styled.ul`
  display: grid;
  gap: 0.5rem;
  li {
    display: grid;
    gap: 0.4rem;
    padding: 0.6rem 0;
    border-top: 1px solid ${ink.line};
  }
  li > button {
    border: 0;
    background: transparent;
    padding: 0;
    font-weight: 400;
  }
  small {
    font-size: 0.9375rem;
    color: ${ink.quiet};
  }
  li > div {
    display: flex;
    flex-wrap: wrap;
    gap: 0.5rem;
  }
`;

type Props = {
  attempt: string;
  remarks: readonly Remark[];
  /** Whether whoever looks teaches the one who made it. */
  isTeacher: boolean;
  /** The moment that is looked at, in seconds. */
  at: number;
  onHear: (at: number) => void;
  onPause: () => void;
};

export function Remarks({ attempt, remarks, isTeacher, at, onHear, onPause }: Props) {
  const again = useAgain();
  if (remarks.length === 0 && !isTeacher) return null;
  return (
    <section aria-label="Remarks">
      <h2>{isTeacher ? "Your remarks" : "Your teacher’s remarks"}</h2>
      {again.error ? <Notice>{again.error.message}</Notice> : null}
      <Listed>
        {remarks.map((one) => (
          <li key={one.id}>
            <Button onPress={() => onHear(one.at_s)}>
              <b>{momentName(one.at_s)}</b> {one.text}
            </Button>
            <small>
              {one.is_mine ? "" : `${one.by}. `}
              {cameToWords(one)}
            </small>
            <div>
              {isTeacher ? null : (
                <Button
                  weight="solid"
                  isDisabled={again.isPending}
                  onPress={() => again.mutate(one.id)}
                >
                  {one.answer && !one.is_done ? "Go on with this spot" : "Do this spot again"}
                </Button>
              )}
              {one.is_done && one.answer ? (
                <Link to={`/review/${one.answer}/replay`}>Hear it done again</Link>
              ) : null}
              {one.is_mine ? <Erase remark={one} attempt={attempt} /> : null}
            </div>
          </li>
        ))}
      </Listed>
      {isTeacher ? <Pin attempt={attempt} at={at} onPause={onPause} /> : null}
    </section>
  );
}

function Erase({ remark, attempt }: { remark: Remark; attempt: string }) {
  const erase = useMutation({
    mutationFn: () =>
      said(api.DELETE("/api/remarks/{remark_id}", { params: { path: { remark_id: remark.id } } })),
    onSuccess: () => void queries.invalidateQueries({ queryKey: ["remarks", attempt] }),
  });
  return (
    <Button isDisabled={erase.isPending} onPress={() => erase.mutate()}>
      Erase
    </Button>
  );
}

type PinProps = { attempt: string; at: number; onPause: () => void };

/** Words for the moment that is looked at; it stands still while they are written. */
function Pin({ attempt, at, onPause }: PinProps) {
  const [text, setText] = useState("");
  const box = useRef<HTMLDivElement>(null);
  const pin = useMutation({
    mutationFn: () =>
      said(
        api.POST("/api/attempts/{attempt_id}/remarks", {
          params: { path: { attempt_id: attempt } },
          body: { at_s: Math.round(at * 10) / 10, text },
        }),
      ),
    onSuccess: () => {
      setText("");
      box.current?.querySelector("input")?.blur(); // the keys are the replay's again
      void queries.invalidateQueries({ queryKey: ["remarks", attempt] });
    },
  });
  const isReady = text.trim() !== "" && !pin.isPending;
  useKeys({
    R: () => {
      onPause();
      box.current?.querySelector("input")?.focus();
    },
  });
  return (
    <div ref={box} style={{ display: "grid", gap: "0.5rem" }} onFocus={onPause}>
      <Typed
        label={`A remark at ${momentName(at)}`}
        value={text}
        most={MOST_LETTERS}
        onType={setText}
        onDone={() => isReady && pin.mutate()}
      />
      {pin.error ? <Notice>{pin.error.message}</Notice> : null}
      <Button weight="solid" hint="R" isDisabled={!isReady} onPress={() => pin.mutate()}>
        Pin it here
      </Button>
    </div>
  );
}

const Bar = styled.nav`
  display: grid;
  gap: 0.5rem;
  padding-bottom: 0.75rem;
  border-bottom: 1.5px solid ${ink.text};
  div {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 0.5rem;
  }
`;

/** From one pupil of a class to the next, where one came from a class's results. */
export function Marking({ attempt }: { attempt: string }) {
  const [search] = useSearchParams();
  const navigate = useNavigate();
  const [studio, given, part] = ["studio", "given", "part"].map((one) => search.get(one) ?? "");
  const isMarking = Boolean(studio && given);
  const results = useQuery({
    queryKey: ["studio", studio, "results", given, Number(part)],
    queryFn: () =>
      said(
        api.GET("/api/studios/{studio_id}/given/{assignment_id}", {
          params: {
            path: { studio_id: studio ?? "", assignment_id: given ?? "" },
            query: { part: Number(part) },
          },
        }),
      ),
    enabled: isMarking,
  });
  const done = results.data?.pupils.filter((one) => one.attempt) ?? [];
  const at = done.findIndex((one) => one.attempt === attempt);
  const to = (step: number) => {
    const one = done[at + step];
    if (at >= 0 && one?.attempt) navigate(markingPlace(one.attempt, search));
  };
  useKeys({ N: () => to(1), P: () => to(-1) });
  if (!isMarking || at < 0) return null;
  return (
    <Bar aria-label="From one pupil to the next">
      <h2>
        {done[at]?.name}, {at + 1} of {done.length}
      </h2>
      <div>
        <Button hint="P" isDisabled={at === 0} onPress={() => to(-1)}>
          Previous
        </Button>
        <Button hint="N" isDisabled={at === done.length - 1} onPress={() => to(1)}>
          Next
        </Button>
        <Link to={`/teach/${studio}/given/${given}`}>The class</Link>
      </div>
    </Bar>
  );
}

/** Where an attempt is marked, on the way through a class. */
const markingPlace = (attempt: string, search: URLSearchParams) =>
  `/review/${attempt}/replay?${new URLSearchParams({
    studio: search.get("studio") ?? "",
    given: search.get("given") ?? "",
    part: search.get("part") ?? "0",
  })}`;
