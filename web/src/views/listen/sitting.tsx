import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState, useSyncExternalStore } from "react";
import { Link, useParams } from "react-router";
import styled from "styled-components";
import { api, said, type DrillScene, type SittingPage, type Sure } from "../../api/client";
import { Button } from "../../parts/button";
import { laidOut, numberKeys } from "../../parts/answers";
import { KeyHint } from "../../parts/key-hint";
import { HowSure, sureKeys, SureRow } from "../../parts/how-sure";
import { Centre } from "../../parts/layout";
import { Notice } from "../../parts/notice";
import { ink, phone } from "../../theme/theme";
import { playedOn, SittingResult } from "./sitting-result";
import { SittingSession, type SittingState } from "./sitting-session";
import { HeadPicture } from "./head-picture";
import { TruthPicture } from "../../picture/truth-picture";
import { TunerPicture } from "./tuner-picture";
import { Turning, turnsOf } from "./turning";
import { useKeys } from "../../parts/use-keys";
import { useTaps } from "./use-taps";

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
/** In how many columns the answers stand, and how wide each is. */
const columnsOf = (answers: number) => (answers > 8 ? 4 : answers > MANY ? 2 : 1);
const NUMBERS = 6; // stand in a row
const WIDTHS: Record<number, string> = { 1: "20rem", 2: "38rem", 4: "60rem", 6: "50rem" };
/** On a phone numbers, which are short, stand four in a row. */
const onPhone = (columns: number) => (columns === NUMBERS ? 4 : Math.min(2, columns));
const Answers = styled.div<{ $columns: number }>`
  display: grid;
  grid-template-columns: repeat(${({ $columns }) => $columns}, minmax(0, 1fr));
  gap: 0.5rem;
  width: min(${({ $columns }) => WIDTHS[$columns]}, 100%);
  ${phone} {
    grid-template-columns: repeat(${({ $columns }) => onPhone($columns)}, minmax(0, 1fr));
    button {
      padding: 0.4rem 0.5rem;
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
const Tapped = styled.output`
  min-width: 8rem;
  text-align: left;
  font-size: 1.25rem;
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
        {state.mute ? <Notice>{state.mute}</Notice> : null}
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

function AskedStage(props: StageProps) {
  const { asked } = props.scene;
  if (asked?.turn) return <TurnedStage {...props} asked={asked} turn={asked.turn} />;
  return <JudgedStage {...props} asked={asked ?? NOTHING} />;
}

type JudgedProps = StageProps & { asked: Question };

function JudgedStage({ page, scene, state, session, asked }: JudgedProps) {
  const [answer, setAnswer] = useState<number | null>(null);
  const at_s = useHeardTo(state);
  const sounds = asked.parts.length > 0;
  const heard = scene.listens > 0 || !sounds;
  const [rate, tap] = useTaps();
  const taps = asked.amount && heard;
  // what is tapped is the answer, until a number is chosen
  const amount = !asked.amount ? null : answer === null ? rate : Number(asked.answers[answer]?.id);
  const hear = () => session.act({ kind: "hear_trial" });
  const choose = (number: number) => {
    if (heard) setAnswer(number);
  };
  const tapOnce = () => {
    setAnswer(null);
    tap();
  };
  const isAnswered = asked.amount ? amount !== null : answer !== null;
  const judge = (sure: Sure) => {
    if (isAnswered) session.act({ kind: "judge_trial", answer: answer ?? 0, sure, amount });
  };
  const rows = laidOut(asked);
  useKeys({
    ...(sounds ? { " ": hear } : {}),
    ...(taps ? { T: tapOnce } : {}),
    ...numberKeys(rows, answer, choose),
    ...Object.fromEntries(rows.map((one) => [one.key, () => choose(one.number)])),
    ...sureKeys(judge),
  });
  return (
    <Asked>
      <Head page={page} scene={scene} />
      <h1>{asked.question}</h1>
      {asked.picture ? (
        <Shown picture={asked.picture} at_s={at_s} heard={heard && state.playing === null} />
      ) : sounds ? (
        <TruthPicture
          drawn={page.drawn}
          parts={asked.parts}
          difference={null}
          isTold={false}
          at_s={at_s}
        />
      ) : null}
      <SureRow>
        {sounds ? (
          <Button weight={heard ? "plain" : "solid"} hint="Space" onPress={hear}>
            {heard ? "Play it again" : "Play it"}
          </Button>
        ) : null}
        {asked.amount ? (
          <>
            <Button hint="T" isDisabled={!heard} onPressStart={tapOnce}>
              Tap along
            </Button>
            <Tapped aria-live="off">
              {rate === null ? "or choose" : `${rate.toFixed(1)} a second`}
            </Tapped>
            <KeyHint>← →</KeyHint>
          </>
        ) : null}
      </SureRow>
      <Answers
        role="group"
        aria-label="Your answer"
        $columns={asked.amount ? NUMBERS : columnsOf(rows.length)}
      >
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
      <HowSure words={asked.how_sure} isDisabled={!isAnswered} onJudge={judge} />
    </Asked>
  );
}

type TurnedProps = JudgedProps & { turn: NonNullable<Question["turn"]> };

/** A trial in which a string is turned before it is judged. */
function TurnedStage({ page, scene, state, session, asked, turn }: TurnedProps) {
  const [answer, setAnswer] = useState<number | null>(null);
  const at_s = useHeardTo(state);
  const isHeard = scene.listens > 0;
  // the string sounds only after what goes before it
  const isHere = isHeard && (at_s === null || at_s >= turn.begins_s);
  const goesBefore = turn.begins_s > 0;
  const rows = laidOut(asked);
  const isAnswered = rows.length === 0 || answer !== null;
  const hear = () => session.act({ kind: "hear_trial" });
  const again = () => session.act({ kind: "play_string" });
  const turned = (steps: number) => session.act({ kind: "turn_trial", steps });
  const judge = (sure: Sure) => {
    if (isHere && isAnswered)
      session.act({ kind: "judge_trial", answer: answer ?? 0, sure, amount: null });
  };
  const turns = turnsOf(turn);
  useKeys(
    {
      " ": hear,
      ...(goesBefore && isHere ? { S: again } : {}),
      ...(isHere ? Object.fromEntries(turns.map((one) => [one.key, () => turned(one.steps)])) : {}),
      ...(isHere
        ? Object.fromEntries(rows.map((one) => [one.key, () => setAnswer(one.number)]))
        : {}),
      ...sureKeys(judge),
    },
    goesBefore ? turns.map((one) => one.key) : [],
  );
  return (
    <Asked>
      <Head page={page} scene={scene} />
      <h1>{asked.question}</h1>
      <TruthPicture
        drawn={page.drawn}
        parts={asked.parts}
        difference={null}
        isTold={false}
        at_s={at_s}
      />
      <SureRow>
        <Button weight={isHeard ? "plain" : "solid"} hint="Space" onPress={hear}>
          {!isHeard ? "Play it" : goesBefore ? "The note again" : "Play it again"}
        </Button>
        {goesBefore ? (
          <Button hint="S" isDisabled={!isHere} onPress={again}>
            Your string again
          </Button>
        ) : null}
      </SureRow>
      <Turning turn={turn} steps={scene.steps} isDisabled={!isHere} onTurn={turned} />
      {rows.length > 0 ? (
        <Answers role="group" aria-label="Your answer" $columns={1}>
          {rows.map((one) => (
            <Button
              key={one.id}
              hint={one.key}
              isDisabled={!isHere}
              aria-pressed={answer === one.number}
              onPress={() => setAnswer(one.number)}
            >
              {one.words}
            </Button>
          ))}
        </Answers>
      ) : null}
      <HowSure words={asked.how_sure} isDisabled={!isHere || !isAnswered} onJudge={judge} />
    </Asked>
  );
}

const NOTHING: Question = {
  question: "",
  answers: [],
  order: "listed",
  parts: [],
  picture: null,
  turn: null,
  amount: false,
  how_sure: "",
};

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
  const judged = asked.amount
    ? asked.turn || isRight
      ? ""
      : `You said ${truth.said_words}. `
    : `Not “${asked.answers[truth.said]?.words}”. `;
  return (
    <Asked>
      <Head page={page} scene={scene} />
      <div role="status">
        <h1>
          {isRight ? "Right. " : judged}
          {truth.says}
        </h1>
      </div>
      {asked.picture ? (
        <Shown picture={asked.picture} at_s={at_s} heard={state.playing === null} />
      ) : sounds ? (
        <TruthPicture
          drawn={page.drawn}
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
function useHeardTo({ playing }: SittingState): number | null {
  const [nowMs, setNow] = useState(0);
  useEffect(() => {
    if (playing === null) return undefined;
    const timer = setInterval(() => setNow(performance.now()), 60);
    return () => clearInterval(timer);
  }, [playing]);
  if (playing === null) return null;
  return playing.begun_s + (Math.max(nowMs, playing.beganMs) - playing.beganMs) / 1000;
}
