import { useState } from "react";
import { Button as AriaButton } from "react-aria-components";
import styled from "styled-components";
import type { AttemptPage, Scene } from "../../api/client";
import { Button } from "../../parts/button";
import { Dialog } from "../../parts/dialog";
import { useMedia } from "../../parts/use-media";
import { ink, PHONE } from "../../theme/theme";
import { labelOf } from "../../words/labels";

const List = styled.ol`
  position: relative;
  display: flex;
  align-items: center;
  overflow: auto hidden;
  max-width: 100%;
  scrollbar-width: none;
  padding: 2px;
  li {
    display: flex;
    align-items: center;
    flex: none;
  }
  li + li::before {
    content: "";
    width: 0.9rem;
    border-top: 1.5px solid ${ink.line};
  }
  &[data-tall] {
    display: grid;
    overflow: visible;
    li {
      display: grid;
    }
    li + li::before {
      display: none;
    }
  }
`;
const Item = styled(AriaButton)`
  display: flex;
  align-items: center;
  gap: 0.45rem;
  min-height: 44px;
  padding: 0 0.5rem 0 0.35rem;
  border: 1.5px solid transparent;
  border-radius: 999px;
  background: transparent;
  color: ${ink.quiet};
  font: inherit;
  cursor: pointer;
  white-space: nowrap;
  .number {
    display: grid;
    place-items: center;
    width: 1.8rem;
    height: 1.8rem;
    border-radius: 50%;
    border: 1.5px solid ${ink.edge};
    font-weight: 650;
    font-size: 0.9375rem;
  }
  &[data-said] .number {
    border-color: ${ink.text};
    color: ${ink.text};
  }
  &[aria-current="step"] {
    color: ${ink.text};
    font-weight: 700;
    .number {
      background: ${ink.solid};
      color: ${ink.onSolid};
      border-color: ${ink.solid};
    }
  }
  &[data-hovered] {
    background: ${ink.shade};
  }
`;

/** A long plan scrolls by itself, and only where its current step is out of sight. */
function intoView(element: HTMLElement | null): void {
  const list = element?.closest("ol");
  if (!element || !list) return;
  // Not scrollIntoView: that would move the page.
  const left = element.offsetLeft - list.clientWidth / 3;
  const isSeen =
    element.offsetLeft >= list.scrollLeft &&
    element.offsetLeft + element.offsetWidth <= list.scrollLeft + list.clientWidth;
  if (!isSeen) list.scrollLeft = Math.max(0, left);
}

export type PlanListProps = {
  page: AttemptPage;
  scene: Scene;
  onGo: (stage: number) => void;
};

/** The stages in their order; any of them can be gone back to. On a phone they are in a sheet. */
export function PlanList(props: PlanListProps) {
  const narrow = useMedia(PHONE);
  const [isOpen, open] = useState(false);
  const { page, scene, onGo } = props;
  if (!narrow) return <Stages {...props} />;
  return (
    <>
      <Button
        weight="bare"
        aria-label={`Step ${scene.stage + 1} of ${page.stages.length}: the plan`}
        onPress={() => open(true)}
      >
        {scene.stage + 1} of {page.stages.length}
      </Button>
      <Dialog title="The plan" isOpen={isOpen} onClose={() => open(false)}>
        <Stages
          {...props}
          isTall
          onGo={(stage) => {
            open(false);
            onGo(stage);
          }}
        />
      </Dialog>
    </>
  );
}

function Stages({ page, scene, onGo, isTall = false }: PlanListProps & { isTall?: boolean }) {
  return (
    <List aria-label="The plan" data-tall={isTall ? "" : undefined}>
      {page.stages.map((stage, index) => {
        const isSaid = scene.judged.includes(index);
        const isHere = index === scene.stage;
        return (
          <li key={`${index} ${stage.title}`}>
            <Item
              preventFocusOnPress
              data-said={isSaid ? "" : undefined}
              aria-current={isHere ? "step" : false}
              ref={isHere ? intoView : undefined}
              onPress={() => onGo(index)}
            >
              <span className="number" aria-hidden="true">
                {isSaid && !isHere ? "✓" : index + 1}
              </span>
              <span className="name" aria-hidden="true">
                {isTall
                  ? stage.title
                  : stage.kind === "step"
                    ? labelOf(page, stage.own.string)
                    : stage.sets_fret
                      ? `fret ${stage.own.fret}`
                      : stage.chord === null
                        ? "check"
                        : "chord"}
              </span>
              <span className="unseen">
                {index + 1}. {stage.title}
                {isSaid ? ", judged" : ""}
              </span>
            </Item>
          </li>
        );
      })}
    </List>
  );
}
