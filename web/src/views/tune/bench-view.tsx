import styled from "styled-components";
import type { Aid } from "../../api/client";
import { Button } from "../../parts/button";
import { Choice } from "../../parts/choice";
import { Notice } from "../../parts/notice";
import { ink } from "../../theme/theme";
import { capital } from "../../words/formats";
import { optionsOf } from "../../words/names";
import { canBuzz } from "./buzz";
import { labelOf } from "../../words/labels";
import { type Bench, behaves, type Command, fingered } from "./commands";
import { Hand } from "./hand";
import { Judge, type Judging } from "./judging";
import { type Hold, keyWords } from "./keys";
import {
  Basin,
  Dock,
  Group,
  Heading,
  Over,
  PlanArea,
  Push,
  Question,
  Screen,
  SideArea,
  Sounds,
  WaterArea,
} from "./layout";
import { PlanList } from "./plan-list";
import { Reading } from "./reading";
import type { Link, SessionState } from "./session";
import { StringsRow } from "./strings-row";
import { Water } from "../../picture/water";
import type { WaterLog } from "../../picture/water-log";

const Finger = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) 44px 6.2rem 44px;
  align-items: center;
  button {
    justify-content: center;
    padding: 0;
  }
  strong {
    font-size: 1rem;
    font-weight: 650;
  }
  span {
    text-align: center;
    font-size: 0.9375rem;
  }
`;
const Foot = styled.div`
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.5rem;
  button {
    padding: 0.4rem 0.7rem;
  }
  [data-wide] {
    grid-column: 1 / -1;
  }
`;
const Quiet = styled.span`
  color: ${ink.quiet};
  font-size: 0.9375rem;
`;

export type WorkbenchProps = {
  bench: Bench;
  commands: Command[];
  hold: Hold;
  log: WaterLog;
  link: Link;
  notice: string | null;
  shown: SessionState["shown"];
  judging: Judging;
  stand: boolean;
  buzz: [boolean, (on: boolean) => void];
  onGo: (stage: number) => void;
  onFinish: () => void;
  onTakeBack: () => void;
};

/** The working screen of the bench. */
export function Workbench(props: WorkbenchProps) {
  const { bench, commands, log, link, judging, stand } = props;
  const { page, scene, stage, selected } = bench;
  const own = labelOf(page, stage?.own.string ?? selected);
  const by = (id: string) => {
    const command = commands.find((one) => one.id === id);
    if (!command) throw new Error(`no command ${id}`);
    return command;
  };
  const press = (id: string) => ({
    hint: keyWords(by(id).key),
    isDisabled: link !== "live" || !by(id).allowed,
    onPress: () => by(id).run(performance.now(), false),
  });
  const aids = optionsOf<Aid>("aids").map(({ id, words }) => ({ id, words }));
  const questioned =
    page.reference.in_question && page.reference.sounds && scene.reference_verdict === null;

  return (
    <Screen data-stand={stand ? "on" : "off"}>
      <PlanArea data-area="plan" aria-label="Plan">
        <h2>{page.title}</h2>
        {stage ? (
          <PlanList page={page} scene={scene} onGo={props.onGo} />
        ) : (
          <p>
            No plan, no points. Play one string or two, turn what you like, and hear what it does.
          </p>
        )}
        <Foot>
          <Button {...press("stand")} isDisabled={false} data-wide>
            Music-stand view
          </Button>
          <Button {...press("keys")} isDisabled={false}>
            Keys
          </Button>
          {by("away").allowed ? <Button {...press("away")}>Later</Button> : null}
          <Button
            onPress={props.onFinish}
            isDisabled={link !== "live"}
            data-wide={by("away").allowed ? "" : undefined}
          >
            Finish
          </Button>
        </Foot>
      </PlanArea>

      <WaterArea aria-label="What sounds">
        <Heading>
          <div>
            <h1>{stage?.title ?? `${capital(page.short_name)}, played freely`}</h1>
            <p>{stage?.instruction ?? "Two strings played together show how they beat."}</p>
          </div>
          <Reading
            scene={scene}
            log={log}
            label={scene.offset_string === null ? own : labelOf(page, scene.offset_string)}
            pair={pairWords(bench)}
            shown={props.shown}
            onTuner={() => bench.open("tuner")}
          />
        </Heading>
        {questioned ? (
          <Question aria-label="The reference">
            <p>Is the {page.reference.words} right? Read it with the tuner, then say it.</p>
            <Choice
              label={`Is the ${page.reference.words} right?`}
              value={null}
              isDisabled={link !== "live"}
              options={[
                { id: "low", words: "Low" },
                { id: "in_tune", words: "Right" },
                { id: "high", words: "High" },
              ]}
              onChoose={(verdict) => bench.act({ kind: "judge_reference", verdict })}
            />
          </Question>
        ) : null}
        <Basin>
          <Water log={log} aid={scene.aid} />
          <Said {...props} />
        </Basin>
      </WaterArea>

      <SideArea aria-label="Playing and judging">
        <Group data-group="sound">
          <h2>
            <span>Play</span>
            <Button weight="bare" {...press("playing")}>
              Stroke
            </Button>
          </h2>
          <Sounds>
            <Button weight="solid" {...press("both")}>
              {capital(by("both").words)}
            </Button>
            <Button {...press("alone")}>Alone</Button>
            {by("reference").allowed ? (
              <Button {...press("reference")}>{capital(page.reference.words)}</Button>
            ) : null}
            <Button {...press("mute-all")}>Mute all</Button>
            <Button {...press("mute-others")} aria-pressed={scene.muted}>
              Mute the others
            </Button>
          </Sounds>
        </Group>
        {fingered(stage).length > 0 ? (
          <Group>
            {fingered(stage).map((number) => (
              <FingerRow key={number} number={number} bench={bench} press={press} />
            ))}
          </Group>
        ) : null}
        <Group data-group="help">
          {fingered(stage).length > 1 ? null : <h2>Help</h2>}
          <Choice
            label="Help"
            value={scene.aid}
            isDisabled={link !== "live"}
            options={aids}
            onChoose={(aid) => by(aid).run(performance.now(), false)}
          />
          {canBuzz() ? (
            <Button onPress={() => props.buzz[1](!props.buzz[0])} aria-pressed={props.buzz[0]}>
              {props.buzz[0] ? "The beat buzzes: stop it" : "Feel the beat: let it buzz"}
            </Button>
          ) : null}
        </Group>
        {stand ? (
          <Button {...press("stand")} isDisabled={false}>
            Leave the music-stand view
          </Button>
        ) : null}
        <Push data-group="judge">
          {stage?.kind === "step" ? (
            <Judge
              label={own}
              judging={judging}
              mayJudge={scene.may_judge}
              mayDecide={scene.may_decide}
              isJudged={scene.judged.includes(scene.stage)}
              keys={{
                low: keyWords(by("low").key),
                in_tune: keyWords(by("in-tune").key),
                high: keyWords(by("high").key),
                unsure: keyWords(by("unsure").key),
              }}
              onVerdict={bench.judge}
              onDecide={bench.decide}
              onCents={bench.moreCents}
            />
          ) : null}
          <Button weight="solid" {...press("next")}>
            {by("next").words}
          </Button>
        </Push>
      </SideArea>

      <Dock aria-label="Pegs">
        <Hand bench={bench} by={by} hold={props.hold} isLive={link === "live"} />
        <StringsRow bench={bench} commands={commands} />
      </Dock>
    </Screen>
  );
}

const PARTS: readonly [number, string][] = [
  [1 / 2, "at half"],
  [1 / 3, "at one third"],
  [1 / 4, "at a quarter"],
  [1 / 5, "at one fifth"],
];

/** Where a string is touched, as a share of it: in words where a node is, else in per cent. */
function shareWords(share: number): string {
  const near = PARTS.find(([part]) => Math.abs(part - share) < 0.006);
  return near ? near[1] : `at ${(100 * share).toFixed(0)} %`;
}

/** The two sides of the stage that sound, in words: “D and A”, “the fork and A”. */
function pairWords({ page, stage, scene }: Bench): string {
  if (stage) return `${labelOf(page, stage.other.string)} and ${labelOf(page, stage.own.string)}`;
  const ringing = scene.strings.filter((one) => one.ringing && !one.along);
  const names = ringing.map((one) => labelOf(page, one.number));
  return (scene.reference_ringing ? [labelOf(page, null), ...names] : names).join(" and ");
}

type FingerProps = {
  number: number;
  bench: Bench;
  press: (id: string) => { hint: string; isDisabled: boolean; onPress: () => void };
};

/** The finger on a stopped or touched string, and its two ways. */
function FingerRow({ number, bench, press }: FingerProps) {
  const { page, scene, stage, selected } = bench;
  const now = scene.strings[number - 1];
  const fret = now?.fret ?? 0;
  const touched = [stage?.own, stage?.other].some(
    (side) => side?.string === number && side.node_fret !== null,
  );
  const mine = fingered(stage).includes(selected) ? selected === number : true;
  const share = 1 - 2 ** (-fret / 12);
  const words =
    fret === 0
      ? "lifted"
      : touched
        ? page.frets
          ? `over ${Number(fret.toFixed(1))}`
          : shareWords(share)
        : `fret ${fret}${now?.hard ? ", hard" : ""}`;
  const place = (way: 1 | -1) => {
    const step = touched ? 0.1 : 1;
    const next = Math.max(0, Math.round((fret + way * step) * 100) / 100);
    bench.act({
      kind: "stop",
      string: number,
      fret: next,
      touch: touched && next > 0,
      hard: now?.hard ?? false,
    });
  };
  return (
    <>
      <Finger>
        <strong>
          {touched ? "Touch" : "Press"} {labelOf(page, number)}
        </strong>
        <Button
          aria-label={`Finger on ${labelOf(page, number)} towards the nut`}
          onPress={() => place(-1)}
        >
          ←
        </Button>
        <span>{words}</span>
        <Button
          aria-label={`Finger on ${labelOf(page, number)} towards the bridge`}
          onPress={() => place(1)}
        >
          →
        </Button>
      </Finger>
      {!touched && mine && behaves(page, "fretting") ? (
        <Button {...press("hard")}>{now?.hard ? "Press lightly" : "Press hard"}</Button>
      ) : null}
    </>
  );
}

/** What has to be said over the water: a broken line, a caution, or what to do first. */
function Said({ bench, log, link, notice, onTakeBack }: WorkbenchProps) {
  const { scene } = bench;
  if (link === "away" || link === "joining") {
    return (
      <Over>
        <Notice>
          {notice ?? "The line is down. Everything you did is kept; it goes on by itself."}
        </Notice>
      </Over>
    );
  }
  if (link === "moved" || link === "gone") {
    return (
      <Over>
        <div>
          <Notice>{notice}</Notice>
          {link === "moved" ? <Button onPress={onTakeBack}>Play it here instead</Button> : null}
        </div>
      </Over>
    );
  }
  // A caution stays, whatever else has to be said: what was refused stands below it.
  const warnings = [scene.caution, notice, scene.felt].filter((words) => words !== null);
  if (warnings.length > 0) {
    return (
      <Over style={{ placeItems: "start center" }}>
        <div>
          {warnings.map((words) => (
            <Notice key={words}>{words}</Notice>
          ))}
        </div>
      </Over>
    );
  }
  if (scene.aid === "ear") {
    return (
      <Over style={{ placeItems: "start center" }}>
        <Quiet>Ear only: listen for the wobble, called beats, to slow down and stop.</Quiet>
      </Over>
    );
  }
  if (scene.pair === null && scene.offset_cents === null && log.samples.length === 0) {
    return (
      <Over>
        <Quiet>
          {scene.aid === "tuner"
            ? "Play one string, and let it ring past its first moment."
            : "Play the two together, then turn while they ring."}
        </Quiet>
      </Over>
    );
  }
  return null;
}
