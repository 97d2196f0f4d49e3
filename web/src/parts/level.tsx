import { useState } from "react";
import { Label, Slider, SliderThumb, SliderTrack } from "react-aria-components";
import styled from "styled-components";
import { player } from "../sound/player";
import { ink, phone } from "../theme/theme";

const Row = styled(Slider)`
  display: flex;
  align-items: center;
  gap: 0.7rem;
  min-height: 44px;
  font-size: 0.9375rem;
`;
const Track = styled(SliderTrack)`
  position: relative;
  width: 8.5rem;
  height: 44px;
  cursor: pointer;
  &::before {
    content: "";
    position: absolute;
    inset: 20px 0;
    border-radius: 2px;
    background: ${ink.edge};
  }
  ${phone} {
    width: 4.25rem;
  }
`;
const Name = styled(Label)`
  ${phone} {
    position: absolute;
    width: 1px;
    height: 1px;
    overflow: hidden;
    clip-path: inset(50%);
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

/** How loud everything is; always in reach. */
export function Level() {
  const [level, setLevel] = useState(player.level);
  return (
    <Row
      minValue={0}
      maxValue={1}
      step={0.05}
      value={level}
      onChange={(value: number | number[]) => {
        if (typeof value !== "number") return;
        setLevel(value);
        player.level = value;
      }}
    >
      <Name>Sound</Name>
      <Track>
        <Thumb />
      </Track>
    </Row>
  );
}
