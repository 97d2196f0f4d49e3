import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, Navigate, useNavigate, useParams } from "react-router";
import styled from "styled-components";
import {
  type AttemptPage,
  api,
  type Exercise,
  type ScorePage,
  queries,
  said,
} from "../../api/client";
import { BeforeAndNow } from "../../parts/before-and-now";
import { Button } from "../../parts/button";
import { Entry } from "../../parts/entry";
import { Dialog } from "../../parts/dialog";
import { Notice } from "../../parts/notice";
import { ink, phone } from "../../theme/theme";
import { CopyLink } from "../../parts/copy-link";
import { Fold } from "../../parts/fold";
import { linkTo, useStart } from "../../realtime/start";
import { Centre, Choices, Table } from "../../parts/layout";
import { capital, dayAndTime, howFar, sizeWords } from "../../words/formats";
import { aboutOf, nameOf } from "../../words/names";
import { Reasons } from "./reasons";
import { Resting } from "./resting";
import { Terms } from "../../parts/terms";
import { NextInPlan } from "../../today/next-in-plan";
import { NextInSet } from "../../today/set-for-you";
import { Strip } from "../../today/strip";
import { useRemarks } from "../../today/use-remarks";

const Main = styled.main`
  padding: 1.5rem 1.5rem 3rem;
  display: grid;
  gap: 1.5rem;
  align-content: start;
  max-width: 72rem;
  width: 100%;
  margin: 0 auto;
  ${phone} {
    padding: 0.75rem 1rem 1rem;
    gap: 0.8rem;
  }
`;
const Top = styled.section`
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(18rem, 26rem);
  gap: 1rem 3rem;
  align-items: start;
  h1 {
    font-size: 2rem;
  }
  .when {
    color: ${ink.quiet};
    font-size: 0.9375rem;
  }
  .well {
    margin-top: 0.3rem;
    font-size: 1.0625rem;
  }
  ${phone} {
    grid-template-columns: minmax(0, 1fr);
    h1 {
      font-size: 1.5rem;
    }
  }
`;
const Change = styled.section`
  display: grid;
  gap: 0.6rem;
  padding: 1.1rem 1.25rem;
  border: 1.5px solid ${ink.line};
  border-radius: 8px;
  background: ${ink.sheet};
  ${phone} {
    padding: 0.8rem 1rem;
  }
  .advice {
    font-size: 1.0625rem;
    line-height: 1.35;
  }
  .cap {
    font-weight: 650;
  }
  & > div {
    display: flex;
    flex-wrap: wrap;
    gap: 0.5rem;
  }
`;
const Tops = styled(Table)`
  th,
  td {
    vertical-align: top;
  }
`;
const FactList = styled.dl`
  display: flex;
  flex-wrap: wrap;
  gap: 0.6rem 1.25rem;
  margin-top: 1rem;
  align-items: start;
  div {
    display: flex;
    flex-direction: column-reverse;
    justify-content: flex-end;
    max-width: 6.5rem;
  }
  dt {
    color: ${ink.quiet};
    font-size: 0.9375rem;
    line-height: 1.25;
  }
  dd {
    margin: 0;
    font-size: 2.5rem;
    line-height: 1.1;
    font-weight: 750;
    letter-spacing: -0.01em;
    white-space: nowrap;
  }
  ${phone} {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 0.5rem 1rem;
    dd {
      font-size: 2rem;
    }
  }
`;
const Links = styled.nav`
  display: flex;
  flex-wrap: wrap;
  gap: 0.6rem;
  a {
    display: flex;
    align-items: center;
    min-height: 44px;
    padding: 0 0.9rem;
    border: 1.5px solid ${ink.edge};
    border-radius: 6px;
    background: ${ink.sheet};
    font-weight: 600;
    text-decoration: none;
  }
  a:hover {
    border-color: ${ink.text};
  }
`;
/** The music it was for, before any number. */
const Heard = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.5rem;
  margin-top: 0.75rem;
  ${phone} {
    margin-top: 0.5rem;
    button {
      padding: 0.3rem 0.7rem;
    }
  }
`;
const Scroll = styled.div`
  overflow-x: auto;
`;
const Folds = styled.div`
  display: grid;
`;

/** That there are remarks, and where they stand. */
function Remarked({ attempt }: { attempt: string }) {
  const many = useRemarks(attempt).data?.length ?? 0;
  if (many === 0) return null;
  return (
    <Strip aria-label="Remarks">
      <strong>{many === 1 ? "1 remark" : `${many} remarks`} on this attempt</strong>
      <Link to={`/review/${attempt}/replay`}>Hear them in their place</Link>
    </Strip>
  );
}

/** A finished attempt: what is, what was believed, what was done, and what to try next. */
export function AttemptReview() {
  const { attempt = "" } = useParams();
  const page = useQuery({
    queryKey: ["attempt", attempt],
    queryFn: () =>
      said(api.GET("/api/attempts/{attempt_id}", { params: { path: { attempt_id: attempt } } })),
  });
  if (page.error) {
    return (
      <Centre>
        <Notice>{page.error.message}</Notice>
      </Centre>
    );
  }
  if (!page.data) {
    return (
      <Centre>
        <p role="status">Fetching …</p>
      </Centre>
    );
  }
  if (page.data.summary.earlier) return <Earlier page={page.data} />;
  if (!page.data.score) return <Navigate to={`/tune/${attempt}`} replace />;
  return <Result page={page.data} outcome={page.data.score} />;
}

/** An attempt that an earlier version scored: it keeps its points, and plays back. */
function Earlier({ page }: { page: AttemptPage }) {
  const { summary } = page;
  return (
    <Main>
      <Top>
        <div>
          <p className="when">
            {summary.title ?? summary.name}, {dayAndTime(summary.created_at)}
          </p>
          <h1 className="points">
            {summary.points === null ? "–" : Math.round(summary.points)} points of 100
          </h1>
          <p className="well">
            An earlier version of this program scored this attempt. It keeps those points; their
            reasons are not kept.
          </p>
        </div>
      </Top>
      <Links aria-label="More of this attempt">
        <Link to={`/review/${summary.id}/replay`}>Play it back</Link>
        <Link to="/review">All attempts</Link>
      </Links>
    </Main>
  );
}

function Result({ page, outcome }: { page: AttemptPage; outcome: ScorePage }) {
  const navigate = useNavigate();
  const [erasing, setErasing] = useState(false);
  const { summary } = page;
  const start = useStart();
  const { advice } = outcome;
  const isFault = page.faults.length > 0;
  const naming = useMutation({
    mutationFn: (title: string) =>
      said(
        api.PATCH("/api/attempts/{attempt_id}", {
          params: { path: { attempt_id: summary.id } },
          body: { title },
        }),
      ),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["attempts"] });
      void queries.invalidateQueries({ queryKey: ["attempt", summary.id] });
    },
  });
  const erase = useMutation({
    mutationFn: () =>
      said(
        api.DELETE("/api/attempts/{attempt_id}", { params: { path: { attempt_id: summary.id } } }),
      ),
    onSuccess: () => {
      queries.removeQueries({ queryKey: ["attempt", summary.id] });
      void queries.invalidateQueries({ queryKey: ["attempts"] });
      navigate("/review");
    },
  });

  return (
    <Main>
      <Top>
        <div>
          <p className="when">
            {page.by ? `${page.by} · ` : ""}
            {summary.title ?? summary.name}, {dayAndTime(summary.created_at)}
          </p>
          <h1>{outcome.headline}</h1>
          {isFault || outcome.points === null || page.by ? null : (
            <BeforeAndNow attempt={summary.id} isShort>
              {(which, presses) => (
                <Heard>
                  <span>Before and now:</span>
                  {presses}
                  <strong role="status">{which}</strong>
                </Heard>
              )}
            </BeforeAndNow>
          )}
          {outcome.points === null ? <p className="well">Free play: no plan, no points.</p> : null}
          {outcome.well ? <p className="well">{outcome.well}</p> : null}
          {outcome.chord ? <p className="well">The chord: {outcome.chord}</p> : null}
          {isFault ? (
            <>
              {outcome.lines.map((line) => (
                <p key={line.part} className="well">
                  <Terms text={line.sentence} />
                </p>
              ))}
              <p className="well">{Math.round(outcome.points ?? 0)} points of 100.</p>
            </>
          ) : (
            <>
              <Facts outcome={outcome} />
              {outcome.practice ? <p className="well">{practiceWords(page, outcome)}</p> : null}
            </>
          )}
        </div>
        <Change aria-label="What to change">
          {outcome.caps.slice(0, 1).map((cap) => (
            <p key={cap.kind} className="cap">
              {cap.sentence}
            </p>
          ))}
          <h2>
            {outcome.points === null || page.guided ? "What to do next" : "One thing to change"}
          </h2>
          <p className="advice">
            <Terms text={advice.sentence} />
          </p>
          {outcome.sides.advice ? <p>{outcome.sides.advice}</p> : null}
          {page.by ? null : (
            <div>
              <Button
                weight="solid"
                isDisabled={start.isPending}
                onPress={() => start.mutate({ exercise: advice.exercise })}
              >
                {advice.button}
              </Button>
              <Button
                isDisabled={start.isPending}
                onPress={() => start.mutate({ exercise: page.exercise })}
              >
                Once more
              </Button>
              {page.exercise.came_from ? (
                <Button
                  isDisabled={start.isPending}
                  onPress={() => start.mutate({ exercise: wayBack(page.exercise) })}
                >
                  The way back
                </Button>
              ) : null}
            </div>
          )}
          {start.error ? <Notice>{start.error.message}</Notice> : null}
        </Change>
      </Top>
      <Remarked attempt={summary.id} />
      {page.by ? null : <NextInPlan attempt={summary.id} />}
      {page.by ? null : <NextInSet attempt={summary.id} />}
      {isFault ? null : <Resting page={page} outcome={outcome} />}
      <Reasons outcome={outcome} attempt={summary.id} />
      <Folds>
        {isFault ? null : (
          <Fold head="String by string">
            <Scroll tabIndex={0} role="region" aria-label="String by string">
              <Strings outcome={outcome} />
            </Scroll>
          </Fold>
        )}
        {page.by ? null : (
          <>
            <Fold head="Name it">
              <Entry
                label="A name of your own for this attempt"
                value={summary.title ?? ""}
                placeholder={summary.name}
                most={60}
                onEnter={(title) => naming.mutate(title)}
              />
              {naming.error ? <Notice>{naming.error.message}</Notice> : null}
            </Fold>
            <Fold head="Save, share or erase">
              <Links aria-label="Save, share or erase">
                <a href={`/api/attempts/${summary.id}/sound.wav`} download>
                  Save its sound (WAV)
                </a>
                <a href={`/api/attempts/${summary.id}/attempt.json`} download>
                  Save the attempt (JSON)
                </a>
                <CopyLink
                  words="Copy a link to this exercise"
                  link={() => linkTo(page.exercise, page.seed)}
                />
                <Button onPress={() => setErasing(true)}>Erase this attempt</Button>
              </Links>
            </Fold>
          </>
        )}
      </Folds>
      <Links aria-label="More of this attempt">
        <Link to={`/review/${summary.id}/replay`}>Play it back</Link>
        <Link to="/review/rubric">How the score works</Link>
        <Link to="/review">All attempts</Link>
      </Links>
      <Dialog
        title="Erase this attempt?"
        role="alertdialog"
        isOpen={erasing}
        onClose={() => setErasing(false)}
      >
        <p>It is erased for good. Only its time stays. This cannot be taken back.</p>
        {erase.error ? <Notice>{erase.error.message}</Notice> : null}
        <Choices>
          <Button onPress={() => setErasing(false)}>Keep it</Button>
          <Button weight="solid" onPress={() => erase.mutate()}>
            Erase it
          </Button>
        </Choices>
      </Dialog>
    </Main>
  );
}

/** Why nothing is called “by ear”; where such starts count together, how many there are. */
function practiceWords({ in_a_row, in_a_row_of }: AttemptPage, { practice }: ScorePage): string {
  if (in_a_row === null) return practice;
  if (in_a_row >= in_a_row_of) return "Four such starts in a row, by ear alone.";
  return `${practice} So far: ${in_a_row}.`;
}

/** Accuracy, ear and points in large numbers. */
function Facts({ outcome }: { outcome: ScorePage }) {
  const { accuracy } = outcome;
  const bases = new Set(outcome.strings.map((one) => one.basis));
  const aid = (["level", "tuner", "ripple", "ear", "read"] as const).find((one) => bases.has(one));
  const worst = outcome.strings.find((one) => one.label === accuracy.worst)?.pitch_cents;
  const side = worst === null || worst === undefined ? "" : worst < 0 ? ", low" : ", high";
  return (
    <FactList>
      <Fact words="cents off, the typical string" size={accuracy.median_cents} />
      <Fact words={`cents off, the worst (${accuracy.worst}${side})`} size={accuracy.worst_cents} />
      {outcome.by_ear_of && !outcome.practice ? (
        <div>
          <dt>tuned by ear alone</dt>
          <dd>
            {outcome.by_ear} of {outcome.by_ear_of}
          </dd>
        </div>
      ) : null}
      {outcome.sides.of ? (
        <div>
          <dt>times the right side named</dt>
          <dd>
            {outcome.sides.right} of {outcome.sides.of}
          </dd>
        </div>
      ) : null}
      {outcome.points === null ? null : (
        <div>
          <dt>points of 100, {aboutOf("bases", aid ?? "none").toLowerCase()}</dt>
          <dd className="points">{Math.round(outcome.points)}</dd>
        </div>
      )}
    </FactList>
  );
}

function Fact({ words, size }: { words: string; size: number | null }) {
  const shown = sizeWords(size);
  const unit = /^([\d.]+) (semitones?)$/.exec(shown);
  const number = shown.replace(/ (cents?|semitones?)$/, "");
  return (
    <div>
      <dt>{unit ? words.replace("cents", unit[2] ?? "cents") : words}</dt>
      <dd>{number}</dd>
    </div>
  );
}

function Strings({ outcome }: { outcome: ScorePage }) {
  return (
    <Tops>
      <caption>String by string, in the order of the plan</caption>
      <thead>
        <tr>
          <th scope="col">String</th>
          <th scope="col">Against its target</th>
          <th scope="col">You said</th>
          <th scope="col">It was, against its partner</th>
          <th scope="col">Overshoots</th>
          <th scope="col">Came</th>
          <th scope="col">Judged with</th>
        </tr>
      </thead>
      <tbody>
        {outcome.strings.map((string) => (
          <tr key={string.number}>
            <th scope="row">{capital(string.label)}</th>
            <td>{howFar(string.pitch_cents)}</td>
            <td>{believedWords(string.believed)}</td>
            <td>
              {string.believed ? howFar(string.believed.was_cents) : howFar(string.matched_cents)}
            </td>
            <td>
              {string.overshoots === 0
                ? "never"
                : `${string.overshoots} times`.replace(/^1 times$/, "once")}
            </td>
            <td>
              {string.moves === 0 ? "not turned" : string.from_below ? "from below" : "from above"}
            </td>
            <td>{nameOf("bases", string.basis)}</td>
          </tr>
        ))}
      </tbody>
    </Tops>
  );
}

/** From the tuning just reached to the one it came from. */
function wayBack(exercise: Exercise): Exercise {
  const { tuning = "standard", came_from = "standard" } = exercise;
  return { ...exercise, tuning: came_from, came_from: tuning };
}

function believedWords(believed: ScorePage["strings"][number]["believed"]): string {
  if (!believed) return "nothing said";
  if (believed.verdict === "in_tune") return "in tune";
  return `${believed.cents} ${believed.cents === 1 ? "cent" : "cents"} ${believed.verdict}`;
}
