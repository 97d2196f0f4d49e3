import styled from "styled-components";
import { Button } from "../../parts/button";
import { Pick } from "../../parts/pick";
import { phone } from "../../theme/theme";
import { labelOf } from "../../words/labels";
import { optionsOf } from "../../words/names";
import { type Answer, type Bench, OF_ONE_STRING } from "./commands";

const Group = styled.section`
  display: grid;
  gap: 0.45rem;
  ${phone} {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
    gap: 0.2rem 0.4rem;
  }
`;

/** What is wrong with the instrument, and what is done about it. */
export function FaultPart({ bench }: { bench: Bench }) {
  const { page, answer, changeAnswer } = bench;
  const ofOne = answer.fault !== null && OF_ONE_STRING.includes(answer.fault);
  return (
    <Group aria-label="What is wrong?" data-group="chord">
      <Pick
        label="What is wrong?"
        value={answer.fault}
        options={optionsOf<NonNullable<Answer["fault"]>>("faults").filter(({ id }) =>
          page.faults.includes(id),
        )}
        onPick={(fault) => changeAnswer({ fault })}
      />
      {ofOne ? (
        <Pick
          label="On which string?"
          value={answer.string ? String(answer.string) : null}
          options={page.strings
            .filter((one) => one.role === "playing")
            .map((one) => ({ id: String(one.number), words: labelOf(page, one.number) }))}
          onPick={(number) => changeAnswer({ string: Number(number) })}
        />
      ) : null}
      <Pick
        label="What is to be done?"
        value={answer.remedy}
        options={optionsOf<NonNullable<Answer["remedy"]>>("remedies")}
        onPick={(remedy) => changeAnswer({ remedy })}
      />
    </Group>
  );
}

const Row = styled.section`
  flex: 1;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.3rem 0.4rem;
  min-width: 0;
  & > span {
    font-weight: 650;
  }
  ${phone} {
    flex-basis: 100%;
    flex-wrap: nowrap;
    button {
      flex: 1 1 auto;
      justify-content: center;
      padding: 0.2rem 0.35rem;
      font-size: 0.875rem;
    }
    & > span {
      display: none;
    }
  }
`;
const PLACES = [
  { words: "Open", fret: 0, touch: false },
  { words: "Fret 1", fret: 1, touch: false },
  { words: "Fret 2", fret: 2, touch: false },
  { words: "Fret 12", fret: 12, touch: false },
  { words: "Harmonic over 12", fret: 12, touch: true },
];

/** The usual checks of frets and nut, on the string in the hand. */
export function Checks({ bench, isLive }: { bench: Bench; isLive: boolean }) {
  const { page, scene, selected, act, playing } = bench;
  const first = page.strings.find((one) => one.number === selected)?.first_fret ?? 1;
  const light = scene.strings[selected - 1]?.light ?? false;
  return (
    <Row aria-label="Checks">
      <span>Play {labelOf(page, selected)}:</span>
      {PLACES.map(({ words, fret, touch }) => (
        <Button
          key={words}
          isDisabled={!isLive || (fret > 0 && first > 1)}
          onPress={() => {
            act({ kind: "stop", string: selected, fret, touch, light });
            const { strength, place, way } = playing;
            act(
              { kind: "play", strings: [selected], reference: false, strength, place, way },
              performance.now(),
            );
          }}
        >
          {words}
        </Button>
      ))}
    </Row>
  );
}
