import type { ReactNode } from "react";
import { Button, Disclosure, DisclosurePanel, Heading } from "react-aria-components";
import styled from "styled-components";
import { ink } from "../theme/theme";

const Folded = styled(Disclosure)`
  border-top: 1px solid ${ink.line};
  &:last-child {
    border-bottom: 1px solid ${ink.line};
  }
  && h2 {
    margin: 0;
    font: inherit;
  }
`;
const Opener = styled(Button)`
  display: flex;
  align-items: center;
  gap: 0.75rem;
  width: 100%;
  min-height: 46px;
  padding: 0.3rem 0.25rem;
  border: 0;
  background: transparent;
  color: inherit;
  font: inherit;
  text-align: left;
  cursor: pointer;
  & > span {
    flex: 1;
    min-width: 0;
  }
  svg {
    flex: none;
    transition: transform 0.12s;
  }
  &[aria-expanded="true"] svg {
    transform: rotate(180deg);
  }
  &[data-hovered] {
    background: ${ink.shade};
  }
`;
const Panel = styled(DisclosurePanel)`
  padding: 0 0.25rem;
  &[data-open] {
    padding-bottom: 0.9rem;
  }
`;

type FoldProps = { head: ReactNode; children: ReactNode; isOpenAtFirst?: boolean };

/** A line that folds out what belongs to it. */
export function Fold({ head, children, isOpenAtFirst = false }: FoldProps) {
  return (
    <Folded defaultExpanded={isOpenAtFirst}>
      <Heading level={2}>
        <Opener slot="trigger">
          <span>{head}</span>
          <svg width="14" height="8" viewBox="0 0 14 8" aria-hidden="true">
            <path d="M1,1 L7,7 L13,1" fill="none" stroke="currentColor" strokeWidth="2" />
          </svg>
        </Opener>
      </Heading>
      <Panel>{children}</Panel>
    </Folded>
  );
}
