// What a tuner shows while a string sounds: the note, how far beside it, and how it is set.

import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { ink } from "../../theme/theme";
import { howFar } from "../../words/formats";

const Panel = styled.div`
  display: grid;
  gap: 0.15rem;
  justify-items: center;
  min-height: 6.5rem;
  strong {
    font-size: 3rem;
    font-weight: 750;
    line-height: 1.05;
  }
  strong span {
    font-size: 0.6em;
  }
  p {
    color: ${ink.quiet};
  }
`;

type Props = {
  picture: Schemas["TunerPicture"];
  /** How far what is heard has come, in seconds; null while nothing plays. */
  at_s: number | null;
  /** Whether it has been heard: then what it showed last stays. */
  heard: boolean;
};

export function TunerPicture({ picture, at_s, heard }: Props) {
  const frame =
    at_s === null
      ? heard
        ? picture.frames.at(-1)
        : undefined
      : picture.frames.findLast((one) => one.at_s <= at_s);
  return (
    <Panel role="img" aria-label={heard || at_s !== null ? words(picture) : "The tuner"}>
      <strong aria-hidden="true" data-testid="tuner">
        {frame?.name ? (
          <>
            {frame.name} <span>{howFar(frame.cents, 0)}</span>
          </>
        ) : (
          "–"
        )}
      </strong>
      <p>
        Tuner: A at {picture.a4_hz} Hz, {picture.mode}
      </p>
    </Panel>
  );
}

/** What it shows at first, in the middle and last, for who hears it read. */
function words({ frames }: Props["picture"]): string {
  const said = frames.filter((one) => one.name);
  const picked = [said[0], said[Math.floor(said.length / 2)], said.at(-1)];
  return `The tuner shows ${picked
    .map((one) => (one ? `${one.name} ${howFar(one.cents, 0)}` : "nothing"))
    .join(", then ")}.`;
}
