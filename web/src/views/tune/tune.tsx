import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useEffect, useRef, useState, useSyncExternalStore } from "react";
import { useLocation, useNavigate, useParams } from "react-router";
import {
  type Aid,
  type AttemptPage,
  api,
  type BenchAction,
  queries,
  said,
  type Verdict,
} from "../../api/client";
import { Button } from "../../parts/button";
import { Choice } from "../../parts/choice";
import { Dialog } from "../../parts/dialog";
import { Notice } from "../../parts/notice";
import { useStart } from "../../realtime/start";
import { NO_SOUND, player } from "../../sound/player";
import { optionsOf } from "../../words/names";
import { AwaySheet } from "./away-sheet";
import { type OnBench, Workbench } from "./bench-view";
import { useBuzz } from "./buzz";
import { labelOf } from "../../words/labels";
import { type Answer, type Bench, commandsOf, OF_ONE_STRING } from "./commands";
import { Cents, MOST_CENTS, useJudging } from "./judging";
import { Ending } from "./ending";
import { KeySheet } from "./key-sheet";
import { Hold, useKeyMap, useKeys } from "./keys";
import { Centre, Choices } from "../../parts/layout";
import { markWords } from "../../picture/marks";
import { PlayingSheet, usePlaying } from "./playing";
import { Session, type SessionState } from "./session";
import { TunerSheet, useFlats } from "./tuner-sheet";
import { WaterLog } from "../../picture/water-log";

/** The bench: an attempt is opened, joined, and played. */
export function Tune() {
  const { attempt = "" } = useParams();
  const page = useQuery({
    queryKey: ["attempt", attempt],
    queryFn: () =>
      said(api.GET("/api/attempts/{attempt_id}", { params: { path: { attempt_id: attempt } } })),
    refetchOnWindowFocus: false,
    retry: (count) => count < 40,
    retryDelay: 1500,
  });
  if (page.data) return <Joined key={attempt} attempt={attempt} page={page.data} />;
  return (
    <Centre>
      {page.failureReason ? (
        <Notice>{page.failureReason.message}</Notice>
      ) : (
        <p role="status">Opening the bench …</p>
      )}
    </Centre>
  );
}

// The first page comes alone: this is fetched with the first guided string.
const Guided = lazy(async () => ({ default: (await import("./guided")).Guided }));

type Arrival = { sounds?: boolean } | null;
type Sheet = "keys" | "playing" | "tuner" | "away";

function useSession(attempt: string): [Session, SessionState] {
  const [session] = useState(() => new Session(attempt));
  useEffect(() => {
    session.open();
    return () => session.close();
  }, [session]);
  return [session, useSyncExternalStore(session.subscribe, session.snapshot)];
}

function Joined({ attempt, page }: { attempt: string; page: AttemptPage }) {
  const navigate = useNavigate();
  const arrival = useRef(useLocation().state as Arrival);
  const [session, state] = useSession(attempt);
  const { scene } = state;
  const start = useStart();
  // after a guided string: on with the next one, in place of the result
  const [onward, setOnward] = useState<number | null>(null);

  // Whoever comes from Prepare has pressed to hear something: it sounds as soon as the bench is there.
  useEffect(() => {
    if (state.link !== "live" || !scene || !arrival.current) return;
    arrival.current = null;
    navigate(".", { replace: true, state: null });
    const first = page.stages[0];
    const strings = first ? first.strings : [page.strings[0]?.number ?? 1];
    const reference = first ? first.with_reference : page.reference.sounds;
    const sound = () => session.act({ kind: "play", strings, reference }, performance.now());
    player.start().then(sound, () => undefined);
  }, [state.link, session, scene, page, navigate]);

  useEffect(() => {
    if (!scene?.finished || state.unsaved !== 0) return;
    void queries.invalidateQueries();
    if (onward === null) navigate(`/review/${attempt}`, { replace: true });
    else if (start.isIdle)
      start.mutate({ exercise: { ...page.exercise, out_string: onward, out_cents: 0 } });
  }, [scene?.finished, state.unsaved, attempt, navigate, onward, start, page]);

  if (!scene) {
    return (
      <Centre>
        {state.link === "away" || state.link === "gone" ? (
          <Notice>{state.notice ?? "The line is down. Trying again …"}</Notice>
        ) : (
          <p role="status">Opening the bench …</p>
        )}
      </Centre>
    );
  }
  return (
    <PlayingBench
      attempt={attempt}
      page={page}
      session={session}
      state={{ ...state, scene }}
      onOnward={setOnward}
    />
  );
}

/** How many seconds are left, told about twice a second; null where there is no limit. */
function useLeft(session: Session, limit_s: number): number | null {
  const [left, setLeft] = useState(limit_s);
  useEffect(() => {
    if (limit_s === 0) return;
    const timer = setInterval(() => setLeft(limit_s - session.time_s), LEFT_EVERY_MS);
    return () => clearInterval(timer);
  }, [session, limit_s]);
  return limit_s === 0 ? null : left;
}

const LEFT_EVERY_MS = 400;
const READ_EVERY_MS = 240;

type PlayingProps = {
  attempt: string;
  page: AttemptPage;
  session: Session;
  state: SessionState & { scene: NonNullable<SessionState["scene"]> };
  /** The string that comes after this attempt. */
  onOnward: (next: number | null) => void;
};

function PlayingBench({ attempt, page, session, state, onOnward }: PlayingProps) {
  const { scene } = state;
  const [log] = useState(() => new WaterLog());
  const [hold] = useState(() => new Hold());
  const [picked, setPicked] = useState<{ stage: number; string: number } | null>(null);
  const [judging, changeJudging] = useJudging(scene.stage);
  const [playing, play] = usePlaying();
  const [stand, setStand] = useState(false);
  const [all, setAll] = useState(page.guided === null);
  const [strikes, setStrikes] = useState<Record<number, number>>({});
  const strike = (strings: number[]) =>
    setStrikes((before) => ({
      ...before,
      ...Object.fromEntries(strings.map((number) => [number, (before[number] ?? 0) + 1])),
    }));
  const [laid, setLaid] = useState<string | null>(null);
  const [answer, setAnswer] = useState<Answer>({ fault: null, string: 0, remedy: null });
  const [mute, setMute] = useState(false);
  const [sheet, setSheet] = useState<Sheet | null>(null);
  const [leaving, setLeaving] = useState<string[] | null>(null);
  const [ending, setEnding] = useState(false);
  const [revealing, setRevealing] = useState<Aid | null>(null);
  const [flats, setFlats] = useFlats();
  const left = useLeft(session, page.exercise.limit_s ?? 0);
  const [putAside, setPutAside] = useState<Aid | null>(null);
  const [keyMap, assignKey, resetKeys] = useKeyMap();
  const stage = page.stages[scene.stage] ?? null;
  const first = stage?.own.string ?? page.strings[0]?.number ?? 1;
  const selected = picked?.stage === scene.stage ? picked.string : first;
  const buzz = useBuzz(scene.aid !== "ear");
  // What another stage, or another aid, has drawn has no place in this picture.
  useEffect(() => log.clear(), [log, scene.stage, scene.aid]);
  const cents = scene.offset_cents;
  useEffect(() => log.show(cents), [log, cents]);
  const ripple = scene.pair?.ripple ?? null;
  useEffect(() => log.say(ripple), [log, ripple]);
  useEffect(() => {
    if (scene.aid !== "tuner") return;
    const timer = setInterval(() => session.listen(flats), READ_EVERY_MS);
    return () => clearInterval(timer);
  }, [session, scene.aid, flats]);
  const { shown } = state;
  useEffect(() => {
    if (scene.aid === "tuner") log.read(shown?.cents ?? null);
  }, [log, shown, scene.aid]);

  const act = (action: BenchAction, pressedAt: number | null = null) => {
    player.start().catch(() => setMute(true));
    if (!session.act(action, pressedAt)) return;
    if (action.kind === "play") strike(action.strings ?? []);
    const words = markWords(action, page);
    if (words) log.mark(words);
  };
  const help = (aid: Aid) => act({ kind: "set_aid", aid });
  // Where the plan reads a tuner, the tuner is there; afterwards the help is what it was before.
  // It goes before the stage does, so that it shows nothing of a string that is for the ear.
  const go = (to: number) => {
    const reads = page.stages[to]?.by_tuner ?? false;
    if (!reads && scene.aid === "tuner" && putAside !== null) {
      help(putAside);
      setPutAside(null);
    }
    act({ kind: "go_to", stage: to });
    if (reads && (scene.aid === "ear" || scene.aid === "ripple")) {
      setPutAside(scene.aid);
      help("tuner");
    }
  };
  const finish = () => {
    const left = page.stages.filter((_, index) => !scene.visited.includes(index));
    if (left.length > 0) setLeaving(left.map((one) => one.title));
    else if (page.stages.length > 0) setEnding(true);
    else act({ kind: "finish" });
  };
  const bench: Bench = {
    page,
    scene,
    stage,
    selected,
    verdict: judging.verdict,
    playing,
    strikes,
    chord: page.chords.find((one) => one.name === (stage ? stage.chord : laid)) ?? null,
    layChord: (name) => {
      setLaid(name);
      if (name !== null) return act({ kind: "lay_chord", name });
      for (const one of scene.strings) {
        if (one.fret > 0) act({ kind: "stop", string: one.number, fret: 0 });
      }
    },
    answer,
    changeAnswer: (some) => setAnswer((before) => ({ ...before, ...some })),
    act,
    play,
    choose: (string) => setPicked({ stage: scene.stage, string }),
    judge: (verdict) => {
      if (all) return changeJudging({ verdict });
      if (verdict === "in_tune" && scene.may_judge) act({ kind: "judge", verdict, cents: 0 });
    },
    putOut: () => {
      act({ kind: "put_out" });
      changeJudging({ verdict: null, asked: false });
    },
    decide: (verdict) => {
      act({ kind: "decide", verdict });
      changeJudging({ asked: false });
    },
    moreCents: (by) =>
      changeJudging({ cents: Math.max(1, Math.min(MOST_CENTS, judging.cents + by)) }),
    help: (aid) => {
      const tells = aid === "level" || (aid === "tuner" && !stage?.by_tuner);
      const told = scene.aid === "level" || scene.aid === "tuner";
      if (tells && !told && scene.may_judge) setRevealing(aid);
      else help(aid);
    },
    next: () => {
      if (!all) return;
      const { fault, string, remedy } = answer;
      if (fault !== null && remedy !== null && page.faults.length > 0) {
        const on = OF_ONE_STRING.includes(fault) ? string : 0;
        act({ kind: "find_fault", fault, string: on, remedy });
        return act({ kind: "finish" });
      }
      if (stage === null || (stage.kind === "check" && !stage.sets_fret)) {
        return scene.stage < page.stages.length - 1 ? go(scene.stage + 1) : finish();
      }
      if (scene.may_judge && judging.verdict === null && !scene.judged.includes(scene.stage)) {
        return changeJudging({ asked: true });
      }
      if (scene.may_judge && judging.verdict !== null) {
        const cents = judging.verdict === "in_tune" ? 0 : judging.cents;
        act({ kind: "judge", verdict: judging.verdict, cents });
        changeJudging({ verdict: null });
        if (page.exercise.answers || page.exercise.guided) return; // the answer is read first
      }
      const last = scene.stage === page.stages.length - 1;
      if (last) finish();
      else go(scene.stage + 1);
    },
    toggleStand: () => setStand((on) => !on),
    open: setSheet,
  };
  const commands = commandsOf(bench).map((one) => ({ ...one, key: keyMap[one.id] ?? one.key }));
  const dialogs = leaving !== null || revealing !== null || ending;
  const bare = sheet === null && !dialogs;
  useKeys(commands, hold, bare);
  const close = () => setSheet(null);

  const onBench: OnBench = {
    bench,
    commands,
    hold,
    log,
    link: state.link,
    notice: state.notice ?? (mute ? NO_SOUND : null),
    shown,
    onTakeBack: () => session.takeBack(),
  };

  if (!all)
    return (
      <Suspense fallback={null}>
        <Guided
          {...onBench}
          attempt={attempt}
          onMore={() => setAll(true)}
          onOn={(next) => {
            onOnward(next);
            act({ kind: "finish" });
          }}
        />
      </Suspense>
    );
  return (
    <>
      <Workbench
        {...onBench}
        judging={judging}
        stand={stand}
        buzz={buzz}
        left={left}
        onGo={go}
        onFinish={finish}
      />
      <Dialog
        title="The time is over"
        isOpen={left !== null && left <= 0 && !scene.finished}
        onClose={() => undefined}
      >
        <p>What you have done counts. Finish, and see how it went.</p>
        <Choices>
          <Button weight="solid" onPress={() => act({ kind: "finish" })}>
            Finish
          </Button>
        </Choices>
      </Dialog>
      <KeySheet
        commands={commands}
        isOpen={sheet === "keys"}
        onClose={close}
        onAssign={(id, key) => assignKey(commands, id, key)}
        onReset={resetKeys}
      />
      <PlayingSheet
        playing={playing}
        bowed={page.bowed}
        fork={page.reference.source === "fork"}
        isOpen={sheet === "playing"}
        onClose={close}
        onPlay={play}
      />
      <TunerSheet
        tuner={scene.tuner}
        flats={flats}
        isOpen={sheet === "tuner"}
        onClose={close}
        onSet={(tuner) => act({ kind: "set_tuner", ...tuner })}
        onFlats={setFlats}
      />
      <AwaySheet
        isOpen={sheet === "away"}
        onClose={close}
        onWait={(seconds) => {
          close();
          act({ kind: "wait", seconds });
        }}
      />
      <Dialog
        title="First say what you hear"
        isOpen={revealing !== null}
        onClose={() => setRevealing(null)}
      >
        <p>
          Is {labelOf(page, stage?.own.string ?? null)} low, in tune or high now? Say it before the
          picture tells you.
        </p>
        <Choice
          label="What do you hear?"
          value={judging.verdict}
          options={optionsOf<Verdict>("verdicts").map(({ id, words }) => ({ id, words }))}
          onChoose={(verdict) => changeJudging({ verdict })}
        />
        <Cents verdict={judging.verdict} cents={judging.cents} onCents={bench.moreCents} />
        <Choices>
          <Button
            onPress={() => {
              if (revealing) help(revealing);
              setRevealing(null);
            }}
          >
            Show it without saying
          </Button>
          <Button
            weight="solid"
            isDisabled={judging.verdict === null}
            onPress={() => {
              const { verdict } = judging;
              if (verdict === null || revealing === null) return;
              act({ kind: "judge", verdict, cents: verdict === "in_tune" ? 0 : judging.cents });
              changeJudging({ verdict: null });
              help(revealing);
              setRevealing(null);
            }}
          >
            That is what I hear
          </Button>
        </Choices>
      </Dialog>
      <Dialog
        title="Finish already?"
        role="alertdialog"
        isOpen={leaving !== null}
        onClose={() => setLeaving(null)}
      >
        <p>You have not been at: {listed(leaving ?? [])}. They earn nothing.</p>
        <Choices>
          <Button onPress={() => setLeaving(null)}>Go on tuning</Button>
          <Button
            weight="solid"
            onPress={() => {
              setLeaving(null);
              act({ kind: "finish" });
            }}
          >
            Finish and see
          </Button>
        </Choices>
      </Dialog>
      <Ending
        page={page}
        scene={scene}
        checked={state.checked}
        isOpen={ending}
        onClose={() => setEnding(false)}
        onAct={act}
      />
    </>
  );
}

const MOST_LISTED = 6;

function listed(titles: string[]): string {
  if (titles.length <= MOST_LISTED) return titles.join("; ");
  return `${titles.slice(0, MOST_LISTED).join("; ")} and ${titles.length - MOST_LISTED} more`;
}
