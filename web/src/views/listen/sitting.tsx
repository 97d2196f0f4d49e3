import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState, useSyncExternalStore } from "react";
import { Link, useParams } from "react-router";
import styled from "styled-components";
import { api, said, type DrillScene, type SittingPage, type Sure } from "../../api/client";
import { Button } from "../../parts/button";
import { Centre } from "../../parts/layout";
import { Notice } from "../../parts/notice";
import { NO_DEVICE } from "../../sound/player";
import { ink, phone } from "../../theme/theme";
import { playedOn, SittingResult } from "./sitting-result";
import { SittingSession, type SittingState } from "./sitting-session";
import { HeadPicture } from "./head-picture";
import { TruthPicture } from "./truth-picture";
import { TunerPicture } from "./tuner-picture";
import { useKeys } from "./use-keys";

const Main = styled.main`
  display: grid;
  grid-template-rows: 1fr auto;
  min-width: 0;
`;
const Asked = styled.section`
  display: grid;
  align-content: start;
  justify-items: center;
  gap: 0.8rem;
  padding: 1rem 1.5rem;
  background: ${ink.sheet};
  text-align: center;
  h1 {
    font-size: 2.25rem;
    max-width: 46rem;
    text-wrap: balance;
  }
  ${phone} {
    padding: 0.75rem 1rem;
    gap: 0.6rem;
    h1 {
      font-size: 1.5rem;
    }
  }
`;
const Quiet = styled.p`
  color: ${ink.quiet};
`;
/** More than these stand in two columns. */
const MANY = 3;
/** In how many columns so many answers stand, and how wide each is. */
const columnsOf = (answers: number) => (answers > 8 ? 4 : answers > MANY ? 2 : 1);
const WIDTHS: Record<number, string> = { 1: "20rem", 2: "38rem", 4: "60rem" };
const Answers = styled.div<{ $columns: number }>`
  display: grid;
  grid-template-columns: repeat(${({ $columns }) => $columns}, minmax(0, 1fr));
  gap: 0.5rem;
  width: min(${({ $columns }) => WIDTHS[$columns]}, 100%);
  ${phone} {
    grid-template-columns: repeat(${({ $columns }) => Math.min(2, $columns)}, minmax(0, 1fr));
    button {
      min-height: 48px;
      font-size: 1rem;
    }
  }
  button {
    justify-content: center;
    min-height: 56px;
    font-size: 1.1875rem;
  }
  button[aria-pressed="true"] {
    background: ${ink.solid};
    color: ${ink.onSolid};
  }
`;
const SureRow = styled.div`
  display: flex;
  flex-wrap: wrap;
  justify-content: center;
  align-items: center;
  gap: 0.5rem;
  min-height: 48px;
  ${phone} {
    span {
      width: 100%;
    }
    button span {
      width: auto;
    }
  }
`;
const Examples = styled.ul<{ $many: boolean }>`
  display: grid;
  grid-template-columns: repeat(${({ $many }) => ($many ? 2 : 1)}, minmax(0, 1fr));
  gap: 0.75rem 2rem;
  width: min(${({ $many }) => ($many ? "68rem" : "40rem")}, 100%);
  text-align: left;
  li {
    display: grid;
    grid-template-columns: 11rem minmax(0, 1fr);
    gap: 1rem;
    align-items: center;
  }
  ${phone} {
    grid-template-columns: minmax(0, 1fr);
    li {
      grid-template-columns: 8.5rem minmax(0, 1fr);
    }
  }
`;
const Foot = styled.footer`
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  align-items: center;
  gap: 0.5rem 1rem;
  padding: 0.75rem 1.5rem;
  border-top: 1.5px solid ${ink.text};
  ${phone} {
    padding: 0.5rem 1rem;
  }
`;

/** A sitting at an ear drill: examples, trials, and what they told. */
export function Sitting() {
  const { sitting = "" } = useParams();
  const page = useQuery({
    queryKey: ["sitting", sitting],
    queryFn: () =>
      said(api.GET("/api/drills/{sitting_id}", { params: { path: { sitting_id: sitting } } })),
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (page.error)
    return (
      <Centre>
        <Notice>{page.error.message}</Notice>
        <Link to="/listen">To the drills</Link>
      </Centre>
    );
  if (!page.data) return null;
  if (page.data.result) return <SittingResult page={page.data} result={page.data.result} />;
  return <Open key={sitting} page={page.data} />;
}

function Open({ page }: { page: SittingPage }) {
  const [session] = useState(() => new SittingSession(page.id));
  const state = useSyncExternalStore(session.subscribe, session.snapshot);
  const queries = useQueryClient();
  useEffect(() => {
    session.open();
    return () => session.close();
  }, [session]);
  const over = state.scene?.stage === "over" && state.unsaved === 0;
  useEffect(() => {
    if (over) void queries.invalidateQueries({ queryKey: ["sitting", page.id] });
  }, [over, queries, page.id]);
  const { scene } = state;
  return (
    <Main>
      {scene ? <Stage page={page} scene={scene} state={state} session={session} /> : <div />}
      <Foot>
        <Quiet>{state.notice ?? WHERE[state.link] ?? "The result comes at the end."}</Quiet>
        {state.mute ? <Notice>{NO_DEVICE}</Notice> : null}
        {state.link === "moved" ? (
          <Button onPress={() => session.takeBack()}>Go on here</Button>
        ) : (
          <Button
            isDisabled={state.link !== "live"}
            onPress={() => session.act({ kind: "end_sitting" })}
          >
            Stop here
          </Button>
        )}
      </Foot>
    </Main>
  );
}

const WHERE: Partial<Record<SittingState["link"], string>> = {
  joining: "One moment.",
  away: "The line is down. What you said is kept; it comes back by itself.",
};

type StageProps = {
  page: SittingPage;
  scene: DrillScene;
  state: SittingState;
  session: SittingSession;
};

function Stage(props: StageProps) {
  switch (props.scene.stage) {
    case "examples":
      return <ExamplesStage {...props} />;
    case "asked":
      // a new trial begins with nothing chosen
      return <AskedStage key={props.scene.number} {...props} />;
    case "told":
      return <ToldStage {...props} />;
    case "over":
      return <div />;
  }
}

/** What the drill is played on, and where in it one is. */
function Head({ page, scene }: { page: SittingPage; scene: DrillScene }) {
  const where = scene.stage === "examples" ? "" : ` · ${scene.number} of ${scene.trials}`;
  return (
    <Quiet>
      {page.name} · {playedOn(page)}
      {where}
    </Quiet>
  );
}

type Question = NonNullable<DrillScene["asked"]>;
type Keyed = Question["answers"][number] & { number: number; key: string };

const FEW_KEYS: Record<number, readonly string[]> = { 2: ["J", "L"], 3: ["J", "K", "L"] };
const MANY_KEYS = "ABCDEFGHIJKLMNOPQRSTUVWX";

/** The answers as they stand: what is higher above what is lower, or as they are listed. */
function laidOut({ answers, order }: Pick<Question, "answers" | "order">): Keyed[] {
  const numbered = answers.map((answer, number) => ({ ...answer, number }));
  const stand = order === "upwards" ? numbered.toReversed() : numbered;
  return stand.map((one, place) => ({
    ...one,
    key: FEW_KEYS[answers.length]?.[one.number] ?? MANY_KEYS[place] ?? "",
  }));
}

function ExamplesStage({ page, scene, state, session }: StageProps) {
  const [pictured, setPictured] = useState(page.examples.findIndex((one) => one.picture));
  const hear = (number: number) => {
    const example = page.examples[number];
    if (example?.picture) setPictured(number);
    if (example?.parts.length) session.act({ kind: "hear_example", answer: number });
  };
  const begin = () => session.act({ kind: "start_trials" });
  const rows = laidOut({
    answers: page.examples.map((one) => ({ id: one.words, words: one.words })),
    order: page.measured ? "upwards" : "listed",
  });
  useKeys({
    Enter: begin,
    ...Object.fromEntries(rows.map((one) => [one.key, () => hear(one.number)])),
  });
  const at_s = useHeardTo(state);
  const picture = page.examples[pictured]?.picture ?? null;
  return (
    <Asked>
      <Head page={page} scene={scene} />
      <h1>First, one of each</h1>
      <Shown
        picture={picture}
        at_s={state.playing?.example === pictured ? at_s : null}
        heard={false}
      />
      <Examples $many={rows.length > MANY}>
        {rows.map((one) => (
          <li key={one.id}>
            <Button
              hint={one.key}
              aria-pressed={state.playing?.example === one.number}
              onPress={() => hear(one.number)}
            >
              {one.words}
            </Button>
            <p>{page.examples[one.number]?.listen_for}</p>
          </li>
        ))}
      </Examples>
      <Button weight="solid" size="tall" hint="Enter" onPress={begin}>
        Begin: {scene.trials} to judge
      </Button>
      <Quiet>Press one to hear it, as often as you like.</Quiet>
    </Asked>
  );
}

type ShownProps = { picture: Question["picture"]; at_s: number | null; heard: boolean };

/** What is looked at, where a trial has something to look at. */
function Shown({ picture, at_s, heard }: ShownProps) {
  switch (picture?.kind) {
    case "peg":
      return <HeadPicture picture={picture} />;
    case "tuner":
      return <TunerPicture picture={picture} at_s={at_s} heard={heard} />;
    default:
      return null;
  }
}

const SURES: readonly { id: Sure; words: string }[] = [
  { id: "guess", words: "A guess" },
  { id: "fairly", words: "Fairly" },
  { id: "sure", words: "Sure" },
];

function AskedStage({ page, scene, state, session }: StageProps) {
  const [answer, setAnswer] = useState<number | null>(null);
  const at_s = useHeardTo(state);
  const asked = scene.asked ?? NOTHING;
  const sounds = asked.parts.length > 0;
  const heard = scene.listens > 0 || !sounds;
  const hear = () => session.act({ kind: "hear_trial" });
  const choose = (number: number) => {
    if (heard) setAnswer(number);
  };
  const judge = (sure: Sure) => {
    if (answer !== null) session.act({ kind: "judge_trial", answer, sure });
  };
  const rows = laidOut(asked);
  useKeys({
    ...(sounds ? { " ": hear } : {}),
    ...Object.fromEntries(rows.map((one) => [one.key, () => choose(one.number)])),
    ...Object.fromEntries(SURES.map((one, n) => [String(n + 1), () => judge(one.id)])),
  });
  return (
    <Asked>
      <Head page={page} scene={scene} />
      <h1>{asked.question}</h1>
      {asked.picture ? (
        <Shown picture={asked.picture} at_s={at_s} heard={heard && state.playing === null} />
      ) : sounds ? (
        <TruthPicture
          drill={page.drill}
          parts={asked.parts}
          difference={null}
          isTold={false}
          at_s={at_s}
        />
      ) : null}
      {sounds ? (
        <Button weight={heard ? "plain" : "solid"} hint="Space" onPress={hear}>
          {heard ? "Play it again" : "Play it"}
        </Button>
      ) : null}
      <Answers role="group" aria-label="Your answer" $columns={columnsOf(rows.length)}>
        {rows.map((one) => (
          <Button
            key={one.id}
            hint={one.key}
            isDisabled={!heard}
            aria-pressed={answer === one.number}
            onPress={() => choose(one.number)}
          >
            {one.words}
          </Button>
        ))}
      </Answers>
      <SureRow role="group" aria-label="How sure are you?">
        <span>How sure are you?</span>
        {SURES.map((one, n) => (
          <Button
            key={one.id}
            hint={String(n + 1)}
            isDisabled={answer === null}
            onPress={() => judge(one.id)}
          >
            {one.words}
          </Button>
        ))}
      </SureRow>
    </Asked>
  );
}

const NOTHING: Question = { question: "", answers: [], order: "listed", parts: [], picture: null };

function ToldStage({ page, scene, state, session }: StageProps) {
  const { truth } = scene;
  const asked = scene.asked ?? NOTHING;
  const sounds = (truth?.parts.length ?? 0) > 0;
  const hear = () => session.act({ kind: "hear_trial" });
  const next = () => session.act({ kind: scene.last ? "end_sitting" : "next_trial" });
  useKeys({ ...(sounds ? { " ": hear } : {}), Enter: next });
  const at_s = useHeardTo(state);
  if (!truth) return null;
  const isRight = truth.answer === truth.said;
  return (
    <Asked>
      <Head page={page} scene={scene} />
      <div role="status">
        <h1>
          {isRight ? "Right. " : `Not “${asked.answers[truth.said]?.words}”. `}
          {truth.says}
        </h1>
      </div>
      {asked.picture ? (
        <Shown picture={asked.picture} at_s={at_s} heard={state.playing === null} />
      ) : sounds ? (
        <TruthPicture
          drill={page.drill}
          parts={truth.parts}
          difference={truth.difference}
          isTold
          at_s={at_s}
        />
      ) : null}
      <p>{truth.listen_for}</p>
      <SureRow>
        {sounds ? (
          <Button hint="Space" onPress={hear}>
            Hear it again
          </Button>
        ) : null}
        <Button weight="solid" hint="Enter" onPress={next}>
          {scene.last ? "See what you hear" : "Next"}
        </Button>
      </SureRow>
    </Asked>
  );
}

/** How far what is heard has come, in seconds, while it plays; null while nothing does. */
function useHeardTo(state: SittingState): number | null {
  const since = state.playing?.sinceMs ?? null;
  const [nowMs, setNow] = useState(0);
  useEffect(() => {
    if (since === null) return undefined;
    const timer = setInterval(() => setNow(performance.now()), 60);
    return () => clearInterval(timer);
  }, [since]);
  return since === null ? null : Math.max(0, (Math.max(nowMs, since) - since) / 1000);
}
