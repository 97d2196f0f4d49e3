import { Button as AriaButton } from "react-aria-components";
import styled from "styled-components";
import type { AttemptPage, Scene } from "../../api/client";
import { ink, phone, tablet } from "../../theme/theme";

const List = styled.ol`
  display: grid;
  gap: 0.15rem;
  overflow: auto;
  min-height: 6rem;
  align-content: start;
  ${tablet} {
    max-height: 21rem; /* a long plan scrolls here; it must not take the water's place */
  }
  ${phone} {
    max-height: none;
  }
`;
const Item = styled(AriaButton)`
  display: grid;
  grid-template-columns: 1.9rem 1fr;
  align-items: center;
  gap: 0.1rem 0.6rem;
  width: 100%;
  min-height: 44px;
  padding: 0.35rem 0.6rem;
  border: 1.5px solid transparent;
  border-radius: 6px;
  background: transparent;
  color: inherit;
  font: inherit;
  text-align: left;
  cursor: pointer;
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
  .title {
    font-weight: 600;
  }
  .state {
    grid-column: 2;
    color: ${ink.quiet};
    font-size: 0.875rem;
  }
  &[aria-current="step"] {
    border-color: ${ink.text};
    background: ${ink.sheet};
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
  // Not scrollIntoView: on a phone that would scroll the page away from the water.
  const top = element.offsetTop - list.offsetTop;
  if (top < list.scrollTop) list.scrollTop = top;
  const below = top + element.offsetHeight - list.clientHeight;
  if (below > list.scrollTop) list.scrollTop = below;
}

export type PlanListProps = {
  page: AttemptPage;
  scene: Scene;
  onGo: (stage: number) => void;
};

/** The stages in their order; any of them can be gone back to. */
export function PlanList({ page, scene, onGo }: PlanListProps) {
  return (
    <List aria-label="The plan">
      {page.stages.map((stage, index) => (
        <li key={`${index} ${stage.title}`}>
          <Item
            preventFocusOnPress
            aria-current={index === scene.stage ? "step" : false}
            ref={index === scene.stage ? intoView : undefined}
            onPress={() => onGo(index)}
          >
            <span className="number">{index + 1}</span>
            <span className="title">{stage.title}</span>
            {scene.judged.includes(index) ? <span className="state">judged</span> : null}
          </Item>
        </li>
      ))}
    </List>
  );
}
