import { useQuery } from "@tanstack/react-query";
import { useEffect, useReducer, useState } from "react";
import { Label, Slider, SliderThumb, SliderTrack } from "react-aria-components";
import { Link, useParams, useSearchParams } from "react-router";
import styled from "styled-components";
import { type AttemptPage, api, type ScorePage, type ReplayPage, said } from "../../api/client";
import { Button } from "../../parts/button";
import { Choice } from "../../parts/choice";
import { Notice } from "../../parts/notice";
import { player } from "../../sound/player";
import { ink, phone, tablet } from "../../theme/theme";
import { Centre } from "../../parts/layout";
import { markWords } from "../../picture/marks";
import { Water } from "../../picture/water";
import { WaterLog } from "../../picture/water-log";
import { capital, howFar } from "../../words/formats";
import { momentName as name, useRemarks } from "../../today/use-remarks";
import { useKeys } from "../../parts/use-keys";
import { Marking, Remarks } from "./remarks";
import { type Frame, ReplayClock } from "./replay-clock";

const Main = styled.main`
  display: grid;
  grid-template: "picture marks" minmax(0, 1fr) "controls controls" auto / minmax(0, 1fr) 21rem;
  height: calc(100dvh - 56px);
  min-height: 36rem;
  ${tablet} {
    grid-template: "picture" 24rem "controls" auto "marks" auto / minmax(0, 1fr);
    height: auto;
  }
`;
const Picture = styled.section`
  grid-area: picture;
  display: flex;
  flex-direction: column;
  background: ${ink.sheet};
  min-width: 0;
  header {
    display: flex;
    justify-content: space-between;
    gap: 1.5rem;
    padding: 1.25rem 1.5rem 0;
    min-height: 5.5rem;
  }
  header p {
    color: ${ink.quiet};
  }
  header div:last-child {
    text-align: right;
    white-space: nowrap;
  }
  strong {
    display: block;
    font-size: 2.5rem;
    line-height: 1.1;
    font-weight: 750;
  }
  & > div {
    position: relative;
    flex: 1;
    min-height: 12rem;
  }
  ${phone} {
    header {
      flex-wrap: wrap;
      padding: 1rem 1rem 0;
    }
    header div:last-child {
      text-align: left;
    }
    strong {
      font-size: 1.75rem;
    }
  }
`;
const Marks = styled.aside`
  grid-area: marks;
  border-left: 1px solid ${ink.line};
  padding: 1.25rem;
  overflow: auto;
  display: grid;
  gap: 0.6rem;
  align-content: start;
  .moments li {
    border-top: 1px solid ${ink.line};
  }
  h3 {
    font-size: 1rem;
    margin-top: 0.4rem;
  }
  .moments button {
    width: 100%;
    border: 0;
    background: transparent;
    padding: 0.5rem 0;
    font-weight: 400;
  }
  b {
    font-weight: 650;
  }
`;
const Controls = styled.section`
  grid-area: controls;
  background: ${ink.shade};
  border-top: 1.5px solid ${ink.text};
  padding: 0.9rem 1.5rem;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.75rem 1.5rem;
`;
const Timeline = styled(Slider)`
  flex: 1;
  min-width: 15rem;
  display: grid;
  .unseen-label {
    position: absolute;
    width: 1px;
    height: 1px;
    overflow: hidden;
    clip-path: inset(50%);
  }
`;
const Track = styled(SliderTrack)`
  position: relative;
  height: 44px;
  cursor: pointer;
  &::before {
    content: "";
    position: absolute;
    inset: 20px 0;
    background: ${ink.edge};
    border-radius: 2px;
  }
  i {
    position: absolute;
    top: 8px;
    width: 2px;
    height: 28px;
    background: ${ink.amber};
  }
  b {
    position: absolute;
    top: 2px;
    width: 14px;
    height: 14px;
    margin-left: -7px;
    border-radius: 50% 50% 50% 0;
    rotate: -45deg;
    background: ${ink.water};
  }
`;
const Thumb = styled(SliderThumb)`
  top: 50%;
  width: 22px;
  height: 22px;
  border-radius: 50%;
  background: ${ink.solid};
  border: 2px solid ${ink.paper};
`;

/** An attempt played back, with sound and picture. */
export function ReplayView() {
  const { attempt = "" } = useParams();
  const path = { params: { path: { attempt_id: attempt } } };
  const page = useQuery({
    queryKey: ["attempt", attempt],
    queryFn: () => said(api.GET("/api/attempts/{attempt_id}", path)),
  });
  const replay = useQuery({
    queryKey: ["replay", attempt],
    queryFn: () => fetchReplay(attempt, 0),
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const error = page.error ?? replay.error;
  if (error || !page.data || !replay.data) {
    return (
      <Centre>{error ? <Notice>{error.message}</Notice> : <p role="status">Fetching …</p>}</Centre>
    );
  }
  return <Replayed key={attempt} page={page.data} replay={replay.data} outcome={page.data.score} />;
}

function fetchReplay(attempt: string, begin: number): Promise<ReplayPage> {
  const where = { path: { attempt_id: attempt }, query: { begin } };
  return said(api.GET("/api/attempts/{attempt_id}/replay", { params: where }));
}

const SPEEDS = ["0.5", "1", "2", "4"] as const;
type Speed = (typeof SPEEDS)[number];

type ReplayedProps = { page: AttemptPage; replay: ReplayPage; outcome: ScorePage | null };

function Replayed({ page, replay, outcome }: ReplayedProps) {
  const [search] = useSearchParams();
  const [log] = useState(() => new WaterLog());
  const [now, setNow] = useState<Frame | null>(null);
  const [, redraw] = useReducer((n: number) => n + 1, 0);
  const [clock] = useState(
    () =>
      new ReplayClock(
        replay,
        (frame) => {
          if (!frame) {
            log.clear();
            player.watch(null);
            return setNow(null);
          }
          const words = markWords(frame.action, page);
          if (words) log.mark(words);
          if (frame.action.kind === "go_to") log.clear();
          log.show(frame.cents);
          player.watch(watched(frame));
          setNow(frame);
        },
        () => redraw(),
      ),
  );
  useEffect(() => {
    let gone = false;
    void (async () => {
      // a long attempt comes a stretch after the other, while the first is played already
      for (let begin = replay.next; begin !== null && !gone;) {
        const next = await fetchReplay(page.summary.id, begin);
        if (!gone) clock.take(next);
        begin = next.next;
      }
    })().catch(() => undefined);
    return () => {
      gone = true;
      clock.dispose();
    };
  }, [clock, page.summary.id, replay.next]);
  const wanted = search.get("at");
  const [hinted, hint] = useState(wanted !== null);
  const start = async (run: () => void) => {
    await player.start().catch(() => undefined);
    run();
  };
  const stage = page.stages[now?.stage ?? 0];
  const moments = outcome?.moments ?? [];
  const remarks = useRemarks(page.summary.id).data ?? [];
  const toggle = () => {
    if (clock.playing) return clock.pause();
    void start(() => {
      if (hinted && wanted !== null) {
        hint(false);
        clock.hear(Number(wanted) || 0);
      } else clock.play();
    });
  };
  useKeys({ " ": toggle });

  return (
    <Main>
      <Picture aria-label="What was heard">
        <header>
          <div>
            <p>
              {page.by ? `${page.by} · ` : ""}
              {page.summary.name}
            </p>
            <h1>{stage?.title ?? "Free play"}</h1>
          </div>
          <div>
            <strong>{now?.cents == null ? "" : capital(howFar(now.cents))}</strong>
            <span>{now?.pair ? `${now.pair.beats_hz.toFixed(1)} beats a second` : ""}</span>
          </div>
        </header>
        <div>
          <Water log={log} aid="level" toleranceCents={page.tolerance_cents} />
        </div>
      </Picture>
      <Marks aria-label="Moments to go back to">
        <Marking attempt={page.summary.id} />
        <Remarks
          attempt={page.summary.id}
          remarks={remarks}
          isTeacher={page.by !== null}
          at={clock.at}
          onHear={(at) => void start(() => clock.hear(at))}
          onPause={() => {
            if (clock.playing) clock.pause();
          }}
        />
        <h2>Moments to go back to</h2>
        {moments.length === 0 ? <p>None: nothing went wrong.</p> : null}
        {grouped(moments).map(({ kind, all }) => (
          <div key={kind}>
            <h3>
              {capital(kind)}
              {all.length > 1 ? `, ${times(all.length)}` : ""}
            </h3>
            <ul className="moments">
              {all.slice(0, MOST_SHOWN).map((moment) => (
                <li key={`${moment.at_s} ${moment.string}`}>
                  <Button onPress={() => void start(() => clock.hear(moment.at_s))}>
                    <b>{name(moment.at_s)}</b> {moment.sentence}
                    <span className="unseen">, {moment.name}</span>
                  </Button>
                </li>
              ))}
            </ul>
          </div>
        ))}
      </Marks>
      <Controls aria-label="Playing back">
        <Button weight="solid" onPress={toggle}>
          {clock.playing ? "Pause" : hinted ? "Hear the moment" : "Play"}
        </Button>
        <Choice
          label="Speed"
          value={String(clock.speed) as Speed}
          options={SPEEDS.map((id) => ({ id, words: id === "0.5" ? "Half" : `${id}×` }))}
          onChoose={(speed) => clock.goAt(Number(speed))}
        />
        <Timeline
          minValue={0}
          maxValue={Math.max(1, replay.duration_s)}
          step={0.1}
          value={clock.at}
          onChange={(at: number | number[]) => {
            if (typeof at === "number") clock.jump(at);
          }}
        >
          <Label className="unseen-label">Moment of the attempt</Label>
          <Track>
            {moments.map((moment) => (
              <i
                key={`${moment.at_s} ${moment.name}`}
                style={{ left: `${(100 * moment.at_s) / Math.max(1, replay.duration_s)}%` }}
              />
            ))}
            {remarks.map((one) => (
              <b
                key={one.id}
                title={one.text}
                style={{ left: `${(100 * one.at_s) / Math.max(1, replay.duration_s)}%` }}
              />
            ))}
            <Thumb />
          </Track>
        </Timeline>
        <span>
          {name(clock.at)} of {name(replay.duration_s)}
        </span>
        <Link to={`/review/${page.summary.id}`}>Back to the score</Link>
      </Controls>
    </Main>
  );
}

const MOST_SHOWN = 3;

// Of each kind the server tells as many at most.
const MOST_TOLD = 100;

function times(many: number): string {
  return many < MOST_TOLD ? `${many} times` : `${many} times or more`;
}

type Marked = ScorePage["moments"][number];

/** Moments of one kind together, in the order of their first. */
function grouped(moments: Marked[]): { kind: string; all: Marked[] }[] {
  const kinds = [...new Set(moments.map((moment) => moment.name))];
  return kinds.map((kind) => ({ kind, all: moments.filter((moment) => moment.name === kind) }));
}

function watched(frame: Frame): Parameters<typeof player.watch>[0] {
  const { pair, voice } = frame;
  if (pair) {
    return {
      own: [pair.own_voice, pair.own_partial - 1],
      other: [pair.other_voice, pair.other_partial - 1],
    };
  }
  return voice === null ? null : { own: [voice, 0], other: null };
}
