import styled from "styled-components";
import { Button } from "../../parts/button";
import { Choice } from "../../parts/choice";
import { Notice } from "../../parts/notice";
import { ink } from "../../theme/theme";
import { AIDS, capital } from "../words";
import { type Bench, type Command, labelOf, stoppedString } from "./commands";
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
  Screen,
  SideArea,
  Sounds,
  TurnPad,
  WaterArea,
} from "./layout";
import { PlanList } from "./plan-list";
import { Reading } from "./reading";
import type { Link } from "./session";
import { StringsRow } from "./strings-row";
import { Water } from "./water";
import type { WaterLog } from "./water-log";

const Finger = styled.div`
  display: grid;
  grid-template-columns: 44px 1fr 44px;
  align-items: center;
  text-align: center;
  button {
    justify-content: center;
    padding: 0;
  }
`;
const Foot = styled.div`
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.5rem;
  button:last-child {
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
  judging: Judging;
  coarse: boolean;
  stand: boolean;
  onCoarse: (coarse: boolean) => void;
  onGo: (stage: number) => void;
  onFinish: () => void;
  onTakeBack: () => void;
};

/** The working screen of the bench. */
export function Workbench(props: WorkbenchProps) {
  const { bench, commands, log, link, judging, coarse, stand } = props;
  const { page, scene, stage, selected } = bench;
  const own = labelOf(page, stage.own.string);
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
  const turning = (id: string) => ({
    hint: keyWords(by(id).key),
    isDisabled: link !== "live",
    onPressStart: () => props.hold.start((at) => by(id).run(at, false), performance.now()),
    onPressEnd: () => props.hold.stop(),
  });
  const stopped = stoppedString(stage);

  return (
    <Screen data-stand={stand ? "on" : "off"}>
      <PlanArea data-area="plan" aria-label="Plan">
        <h2>By stopped strings, from the fork</h2>
        <PlanList page={page} scene={scene} onGo={props.onGo} />
        <Foot>
          <Button {...press("stand")} isDisabled={false}>
            Stand
          </Button>
          <Button {...press("keys")} isDisabled={false}>
            Keys
          </Button>
          <Button onPress={props.onFinish} isDisabled={link !== "live"}>
            Finish
          </Button>
        </Foot>
      </PlanArea>

      <WaterArea aria-label="What sounds">
        <Heading>
          <div>
            <h1>{stage.title}</h1>
            <p>{stage.instruction}</p>
          </div>
          <Reading scene={scene} log={log} label={own} />
        </Heading>
        <Basin>
          <Water log={log} aid={scene.aid} />
          <Said {...props} />
        </Basin>
      </WaterArea>

      <SideArea aria-label="Sounding and judging">
        <Group data-group="sound">
          <h2>Sound</h2>
          <Sounds>
            <Button weight="solid" {...press("both")}>
              {capital(by("both").words)}
            </Button>
            <Button {...press("alone")}>{capital(by("alone").words)}</Button>
            <Button {...press("fork")}>Fork</Button>
            <Button {...press("damp")}>Damp</Button>
          </Sounds>
        </Group>
        {stopped === null ? null : (
          <Group>
            <h2>Finger on {labelOf(page, stopped)}</h2>
            <Finger>
              <Button {...press("finger-down")} hint={undefined} aria-label="One fret lower">
                ←
              </Button>
              <span>{fretWords(scene.strings[stopped - 1]?.fret ?? 0)}</span>
              <Button {...press("finger-up")} hint={undefined} aria-label="One fret higher">
                →
              </Button>
            </Finger>
          </Group>
        )}
        <Group data-group="help">
          <h2>How much the picture helps</h2>
          <Choice
            label="How much the picture helps"
            value={scene.aid}
            isDisabled={link !== "live"}
            options={(["ear", "ripple", "level"] as const).map((id) => ({
              id,
              words: AIDS[id].name,
            }))}
            onChoose={(aid) => by(aid).run(performance.now(), false)}
          />
        </Group>
        {stand ? (
          <Button {...press("stand")} isDisabled={false}>
            Leave stand view
          </Button>
        ) : null}
        <Push data-group="judge">
          {stage.kind === "step" ? (
            <Judge
              label={own}
              judging={judging}
              judged={scene.judged.includes(scene.stage)}
              keys={{
                low: keyWords(by("low").key),
                still: keyWords(by("still").key),
                high: keyWords(by("high").key),
              }}
              onVerdict={bench.judge}
              onCents={bench.moreCents}
            />
          ) : null}
          <Button weight="solid" {...press("next")}>
            {by("next").words}
          </Button>
        </Push>
      </SideArea>

      <Dock aria-label="Pegs">
        <TurnPad>
          <Button weight="solid" size="tall" data-turn {...turning("slacken")}>
            Slacken {labelOf(page, selected)}
          </Button>
          <Button weight="solid" size="tall" data-turn {...turning("tighten")}>
            Tighten {labelOf(page, selected)}
          </Button>
          <Choice
            label="Size of a turn"
            value={coarse ? "coarse" : "fine"}
            options={[
              { id: "fine", words: "Small turns" },
              { id: "coarse", words: "Large turns", hint: "Shift" },
            ]}
            onChoose={(size) => props.onCoarse(size === "coarse")}
          />
        </TurnPad>
        <StringsRow bench={bench} commands={commands} />
      </Dock>
    </Screen>
  );
}

function fretWords(fret: number): string {
  return fret === 0 ? "open" : `fret ${fret}`;
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
  const warning = notice ?? scene.caution;
  if (warning) {
    return (
      <Over style={{ placeItems: "start center" }}>
        <Notice>{warning}</Notice>
      </Over>
    );
  }
  if (scene.aid === "ear") {
    return (
      <Over style={{ placeItems: "start center" }}>
        <Quiet>By ear alone: the beats are only to be heard.</Quiet>
      </Over>
    );
  }
  if (scene.pair === null && log.samples.length === 0) {
    return (
      <Over>
        <Quiet>Sound the two together, then turn while they ring.</Quiet>
      </Over>
    );
  }
  return null;
}
