import { useState } from "react";
import {
  Dialog,
  DialogTrigger,
  Label,
  Popover,
  Slider,
  SliderThumb,
  SliderTrack,
} from "react-aria-components";
import styled from "styled-components";
import { player } from "../sound/player";
import { ink, PHONE } from "../theme/theme";
import { Button } from "./button";
import { useMedia } from "./use-media";

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
`;
const Sheet = styled(Popover)`
  background: ${ink.sheet};
  border: 1.5px solid ${ink.text};
  border-radius: 6px;
  padding: 0.25rem 1rem;
`;
const Thumb = styled(SliderThumb)`
  top: 50%;
  width: 22px;
  height: 22px;
  border-radius: 50%;
  background: ${ink.solid};
  border: 2px solid ${ink.paper};
`;

/** How loud everything is; always in reach. Where there is little room it opens at a press. */
export function Level() {
  const narrow = useMedia(PHONE);
  if (!narrow) return <LevelSlider />;
  return (
    <DialogTrigger>
      <Button weight="bare">Sound</Button>
      <Sheet placement="bottom end">
        <Dialog aria-label="How loud">
          <LevelSlider />
        </Dialog>
      </Sheet>
    </DialogTrigger>
  );
}

/** How loud everything is. */
export function LevelSlider() {
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
      <Label>Sound</Label>
      <Track>
        <Thumb />
      </Track>
    </Row>
  );
}
