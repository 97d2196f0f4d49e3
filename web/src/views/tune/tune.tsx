import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState, useSyncExternalStore } from "react";
import { useLocation, useNavigate, useParams } from "react-router";
import { type Aid, type AttemptPage, api, type BenchAction, queries, said } from "../../api/client";
import { Button } from "../../parts/button";
import { Dialog } from "../../parts/dialog";
import { Notice } from "../../parts/notice";
import { player } from "../../sound/player";
import { Workbench } from "./bench-view";
import { type Bench, commandsOf, labelOf } from "./commands";
import { MOST_CENTS, useJudging } from "./judging";
import { KeySheet } from "./key-sheet";
import { Hold, useKeyMap, useKeys } from "./keys";
import { Centre, Choices } from "./layout";
import { Session, type SessionState } from "./session";
import { WaterLog } from "./water-log";

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

type Arrival = { aid?: Aid } | null;

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

  // Whoever comes from Prepare has pressed to hear something: it sounds as soon as the bench is there.
  useEffect(() => {
    if (state.link !== "live" || !scene || !arrival.current) return;
    const { aid } = arrival.current;
    arrival.current = null;
    navigate(".", { replace: true, state: null });
    if (aid && aid !== scene.aid) session.act({ kind: "help", aid });
    const first = page.stages[0];
    if (!first) return;
    const strings = [first.own.string, first.other.string].filter((n): n is number => n !== null);
    const reference = first.other.string === null;
    const sound = () =>
      session.act({ kind: "sound", strings, reference, strength: 0.7 }, performance.now());
    player.start().then(sound, () => undefined);
  }, [state.link, session, scene, page, navigate]);

  useEffect(() => {
    if (!scene?.finished || state.unsaved !== 0) return;
    void queries.invalidateQueries();
    navigate(`/review/${attempt}`, { replace: true });
  }, [scene?.finished, state.unsaved, attempt, navigate]);

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
  return <Playing page={page} session={session} state={{ ...state, scene }} />;
}

const NO_SOUND = "This browser could not start its sound. Check its speaker, then reload the page.";

type PlayingProps = {
  page: AttemptPage;
  session: Session;
  state: SessionState & { scene: NonNullable<SessionState["scene"]> };
};

function Playing({ page, session, state }: PlayingProps) {
  const { scene } = state;
  const [log] = useState(() => new WaterLog());
  const [hold] = useState(() => new Hold());
  const [picked, setPicked] = useState<{ stage: number; string: number } | null>(null);
  const [judging, changeJudging] = useJudging(scene.stage);
  const [coarse, setCoarse] = useState(false);
  const [stand, setStand] = useState(false);
  const [mute, setMute] = useState(false);
  const [keysOpen, setKeysOpen] = useState(false);
  const [leaving, setLeaving] = useState<string[] | null>(null);
  const [keyMap, assignKey, resetKeys] = useKeyMap();
  const stage = page.stages[scene.stage] ?? page.stages[0];
  if (!stage) throw new Error("a plan has at least one stage");
  const selected = picked?.stage === scene.stage ? picked.string : (stage.own.string ?? 1);
  // What another stage, or another aid, has drawn has no place in this picture.
  useEffect(() => log.clear(), [log, scene.stage, scene.aid]);
  const cents = scene.pair?.offset_cents ?? null;
  useEffect(() => log.show(cents), [log, cents]);

  const act = (action: BenchAction, pressedAt: number | null = null) => {
    player.start().catch(() => setMute(true));
    if (!session.act(action, pressedAt)) return;
    const words = markWords(action, page);
    if (words) log.mark(words);
  };
  const go = (to: number) => act({ kind: "next", stage: to });
  const finish = () => {
    const left = page.stages.filter((_, index) => !scene.visited.includes(index));
    if (left.length > 0) setLeaving(left.map((one) => one.title));
    else act({ kind: "finish" });
  };
  const bench: Bench = {
    page,
    scene,
    stage,
    selected,
    verdict: judging.verdict,
    act,
    choose: (string) => setPicked({ stage: scene.stage, string }),
    judge: (verdict) => changeJudging({ verdict }),
    moreCents: (by) =>
      changeJudging({ cents: Math.max(1, Math.min(MOST_CENTS, judging.cents + by)) }),
    next: () => {
      if (stage.kind === "check") return finish();
      if (!scene.judged.includes(scene.stage)) {
        if (judging.verdict === null) return changeJudging({ asked: true });
        const cents = judging.verdict === "still" ? 0 : judging.cents;
        act({ kind: "judge", verdict: judging.verdict, cents });
      }
      const last = scene.stage === page.stages.length - 1;
      if (last) finish();
      else go(scene.stage + 1);
    },
    toggleStand: () => setStand((on) => !on),
    openKeys: () => setKeysOpen(true),
  };
  const commands = commandsOf(bench).map((one) => ({
    ...one,
    key: keyMap[one.id] ?? one.key,
    run: (pressedAt: number, shifted: boolean) => one.run(pressedAt, shifted || coarse),
  }));
  useKeys(commands, hold, !keysOpen && leaving === null);

  return (
    <>
      <Workbench
        bench={bench}
        commands={commands}
        hold={hold}
        log={log}
        link={state.link}
        notice={state.notice ?? (mute ? NO_SOUND : null)}
        judging={judging}
        coarse={coarse}
        stand={stand}
        onCoarse={setCoarse}
        onGo={go}
        onFinish={finish}
        onTakeBack={() => session.takeBack()}
      />
      <KeySheet
        commands={commands}
        isOpen={keysOpen}
        onClose={() => setKeysOpen(false)}
        onAssign={(id, key) => assignKey(commands, id, key)}
        onReset={resetKeys}
      />
      <Dialog
        title="Finish already?"
        role="alertdialog"
        isOpen={leaving !== null}
        onClose={() => setLeaving(null)}
      >
        <p>Not gone through yet: {(leaving ?? []).join("; ")}. They bring no points.</p>
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
    </>
  );
}

function markWords(action: BenchAction, page: AttemptPage): string | null {
  if (action.kind === "turn") return action.degrees > 0 ? "tighten" : "slacken";
  if (action.kind === "damp") return "damp";
  if (action.kind === "stop") return action.fret > 0 ? `fret ${action.fret}` : "open";
  if (action.kind !== "sound") return null;
  if (action.strings.length === 0) return "fork";
  return action.reference || action.strings.length > 1
    ? "sound"
    : labelOf(page, action.strings[0] ?? 0);
}
