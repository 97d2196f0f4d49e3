import { useState } from "react";
import { Button as AriaButton } from "react-aria-components";
import styled from "styled-components";
import type { Aid } from "../../api/client";
import { Button } from "../../parts/button";
import { Choice } from "../../parts/choice";
import { Pick } from "../../parts/pick";
import { useMedia } from "../../parts/use-media";
import { ink, PHONE } from "../../theme/theme";
import { capital } from "../../words/formats";
import { optionsOf } from "../../words/names";
import { canBuzz } from "./buzz";
import { labelOf } from "../../words/labels";
import { type Bench, type Command, fingered, fretToSet } from "./commands";
import { Checks, FaultPart } from "./fault-part";
import { Hand } from "./hand";
import { Judge, type Judging } from "./judging";
import { type Hold, keyWords } from "./keys";
import {
  Aside,
  Basin,
  Dock,
  Free,
  Heading,
  Help,
  On,
  Over,
  Question,
  Screen,
  Sounds,
  StringsArea,
  Top,
  WaterArea,
} from "./layout";
import { ChordPart } from "./chord-part";
import { type OverWaterProps, Warnings, warningsOf } from "./over-water";
import { PlanList } from "./plan-list";
import { commandOf, pressing } from "./presses";
import { Reading, Riding } from "./reading";
import type { SessionState } from "./session";
import { Strings } from "./strings";
import { Water } from "../../picture/water";
import type { WaterLog } from "../../picture/water-log";
import { named } from "../../words/notes";
import { Terms } from "../../parts/terms";

const Quiet = styled.span`
  color: ${ink.quiet};
  font-size: 0.9375rem;
`;

const Caution = styled.p`
  color: ${ink.amber};
  font-size: 0.9375rem;
`;

/** What every working screen of the bench is given. */
export type OnBench = OverWaterProps & {
  commands: Command[];
  hold: Hold;
  log: WaterLog;
  shown: SessionState["shown"];
};

export type WorkbenchProps = OnBench & {
  judging: Judging;
  stand: boolean;
  buzz: [boolean, (on: boolean) => void];
  /** Seconds that are left, or null where there is no limit. */
  left: number | null;
  onGo: (stage: number) => void;
  onFinish: () => void;
};

const Left = styled.span`
  font-weight: 700;
  font-size: 1.25rem;
  align-self: center;
`;

function leftWords(left: number): string {
  const whole = Math.max(0, Math.ceil(left));
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
}

/** The working screen of the bench. */
export function Workbench(props: WorkbenchProps) {
  const { bench, commands, log, link, judging, stand } = props;
  const { page, scene, stage, selected } = bench;
  const narrow = useMedia(PHONE);
  const isFault = page.faults.length > 0;
  const own = labelOf(page, stage?.own.string ?? selected);
  const setting = fretToSet(stage);
  const by = (id: string) => commandOf(commands, id);
  const press = (id: string) => pressing(by(id), link === "live");
  const allowed = page.exercise.aids ?? [];
  const aids = optionsOf<Aid>("aids")
    .filter(({ id }) => allowed.length === 0 || allowed.includes(id))
    .map(({ id, words }) => ({ id, words }));
  const questioned =
    page.reference.in_question && page.reference.sounds && scene.reference_verdict === null;

  return (
    <Screen tabIndex={-1} data-stand={stand ? "on" : "off"}>
      <Top data-checks={isFault ? "" : undefined}>
        {stage ? (
          <PlanList page={page} scene={scene} onGo={props.onGo} />
        ) : isFault && page.frets > 0 ? (
          <Checks bench={bench} isLive={link === "live"} />
        ) : (
          <Free>{page.title}</Free>
        )}
        <Help data-help>
          {narrow ? (
            <Pick
              isLabelUnseen
              label="Help"
              value={scene.aid}
              options={aids}
              onPick={(aid) => by(aid).run(performance.now(), false)}
            />
          ) : (
            <Choice
              label="Help"
              value={scene.aid}
              isDisabled={link !== "live"}
              options={aids}
              onChoose={(aid) => by(aid).run(performance.now(), false)}
            />
          )}
        </Help>
        <Aside>
          {props.left === null ? null : <Left role="timer">{leftWords(props.left)}</Left>}
          {canBuzz() ? (
            <Button
              weight="bare"
              onPress={() => props.buzz[1](!props.buzz[0])}
              aria-pressed={props.buzz[0]}
            >
              Feel the beats
            </Button>
          ) : null}
          <Button weight="bare" data-key="keys" {...press("keys")} isDisabled={false}>
            Keys
          </Button>
          <Button weight="bare" data-key="stand" {...press("stand")} isDisabled={false}>
            {stand ? "Leave the music-stand view" : "Music-stand view"}
          </Button>
          {by("away").allowed ? (
            <Button weight="bare" onPress={() => bench.open("away")}>
              Later
            </Button>
          ) : null}
          <Button weight="bare" onPress={props.onFinish} isDisabled={link !== "live"}>
            Finish
          </Button>
        </Aside>
      </Top>

      <WaterArea aria-label="What sounds">
        <Heading>
          <div>
            <h1>
              {stage?.title ??
                (isFault ? page.title : `${capital(page.short_name)}, played freely`)}
            </h1>
            <Instruction
              key={scene.stage}
              text={
                stage?.instruction ??
                (isFault
                  ? `Something is wrong with this ${page.short_name}. Check it, then say what it is.`
                  : "No plan, no points. Play two strings together, or a chord, and hear how they beat.")
              }
            />
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
        <Basin
          data-low={stage?.kind === "step" || setting > 0 ? undefined : ""}
          data-many={page.strings.some((one) => one.role === "sympathetic") ? "" : undefined}
        >
          <Water
            log={log}
            aid={scene.aid}
            toleranceCents={page.tolerance_cents}
            name={scene.aid === "tuner" ? (props.shown?.name ?? "") : own}
          />
          <Riding scene={scene} log={log} shown={props.shown} />
          <Said {...props} />
        </Basin>
      </WaterArea>

      <StringsArea aria-label="The strings">
        <Strings bench={bench} commands={commands} isLive={link === "live"} />
      </StringsArea>

      <Dock aria-label="Pegs">
        {isFault && narrow ? null : (
          <Hand bench={bench} by={by} hold={props.hold} isLive={link === "live"} />
        )}
        <Sounds data-group="sound">
          <Button weight="solid" size="tall" {...press("both")}>
            {capital(by("both").words)}
          </Button>
          {isFault ? null : (
            <Button data-alone {...press("alone")}>
              {capital(by("alone").words)}
            </Button>
          )}
          {by("reference").allowed ? (
            <Button {...press("reference")}>{by("reference").words}</Button>
          ) : null}
          {by("light").allowed ? <Button {...press("light")}>{by("light").words}</Button> : null}
          {by("touch").allowed &&
          fingered(stage).length === 0 &&
          bench.chord === null &&
          !isFault ? (
            <Button {...press("touch")}>{by("touch").words}</Button>
          ) : null}
          {by("hard").allowed ? <Button {...press("hard")}>{by("hard").words}</Button> : null}
          <Button {...press("mute-all")}>Mute all</Button>
          <Button {...press("mute-others")} aria-pressed={scene.muted}>
            {narrow ? "Mute others" : "Mute the others"}
          </Button>
          <Button {...press("playing")}>Stroke</Button>
        </Sounds>
        {stage?.kind === "step" || setting > 0 ? (
          <Judge
            label={setting > 0 ? `fret ${setting}` : own}
            judging={judging}
            mayJudge={scene.may_judge}
            mayDecide={scene.may_decide}
            isJudged={scene.judged.includes(scene.stage)}
            answer={scene.answer?.sentence ?? null}
            mayPutOut={scene.may_put_out}
            keys={{
              low: keyWords(by("low").key),
              in_tune: keyWords(by("in-tune").key),
              high: keyWords(by("high").key),
              unsure: keyWords(by("unsure").key),
              putOut: keyWords(by("put-out").key),
            }}
            onVerdict={bench.judge}
            onDecide={bench.decide}
            onCents={bench.moreCents}
            onPutOut={bench.putOut}
          />
        ) : isFault ? (
          <FaultPart bench={bench} />
        ) : bench.chord || by("chord").allowed ? (
          <ChordPart bench={bench} isLive={link === "live"} />
        ) : (
          <span data-nothing />
        )}
        <On>
          <Button weight="solid" size="tall" {...press("next")}>
            {by("next").words}
          </Button>
        </On>
      </Dock>
    </Screen>
  );
}

/** What to do. On a phone its first sentence, and all of it at a press. */
function Instruction({ text }: { text: string }) {
  const narrow = useMedia(PHONE);
  const [whole, setWhole] = useState(false);
  const [first = text] = /^.*?[.?](?= |$)/.exec(text) ?? [];
  if (!narrow || whole || first === text)
    return (
      <p>
        <Terms text={text} />
      </p>
    );
  return (
    <p data-first>
      <span>{first}</span>
      <AriaButton onPress={() => setWhole(true)}>All of it</AriaButton>
    </p>
  );
}

/** The two sides of the stage that sound, in words: “D and A”, “the fork and A”. */
function pairWords({ page, stage, scene, chord }: Bench): string {
  if (stage === null && chord) return named(chord.name, page.exercise.naming);
  if (stage) return `${labelOf(page, stage.other.string)} and ${labelOf(page, stage.own.string)}`;
  const ringing = scene.strings.filter((one) => one.ringing && !one.along);
  const names = ringing.map((one) => labelOf(page, one.number));
  return (scene.reference_ringing ? [labelOf(page, null), ...names] : names).join(" and ");
}

/** What has to be said over the water: a broken line, a caution, or what to do first. */
function Said(props: WorkbenchProps) {
  const { bench, log, link } = props;
  const narrow = useMedia(PHONE);
  const { scene } = bench;
  if (link !== "live" || warningsOf(props).length > 0) {
    return (
      <Over style={link === "live" ? { placeItems: "start center" } : undefined}>
        <Warnings {...props} />
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
    const { stage } = bench;
    const mind = mindful(bench) ? stage?.caution : null;
    return (
      <Over>
        <div>
          {mind && narrow ? null : <Quiet>{firstWords(bench)}</Quiet>}
          {mind ? <Caution>{mind}</Caution> : null}
        </div>
      </Over>
    );
  }
  return null;
}

/** What to do where nothing sounds yet. */
function firstWords({ page, scene, stage }: Bench): string {
  if (scene.aid === "tuner") return "Play one string, and let it ring past its first moment.";
  if (page.faults.length > 0) return "Listen to each string alone. To read a fret, take the tuner.";
  if (stage === null) return "Play two strings, and hear how they beat.";
  if (fretToSet(stage) > 0) return "Play the two together, then slide the fret and listen again.";
  return "Play the two together, then turn while they ring.";
}

/** Whether what a teacher would warn of has its moment: before the first turn, and where strings
 * come up from far below. */
function mindful({ page, scene }: Bench): boolean {
  const { start } = page.exercise;
  return scene.stage === 0 || start === "slack" || start === "retune" || start === "octave";
}
