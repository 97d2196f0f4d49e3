import { Checkbox } from "react-aria-components";
import styled from "styled-components";
import { ink } from "../theme/theme";

const Row = styled(Checkbox)`
  display: grid;
  grid-template-columns: 1.5rem minmax(0, 1fr);
  gap: 0 0.7rem;
  align-items: center;
  min-height: 44px;
  padding: 0.25rem 0.3rem;
  cursor: pointer;
  border-radius: 6px;
  line-height: 1.25;
  i {
    display: grid;
    place-items: center;
    width: 1.5rem;
    height: 1.5rem;
    border: 1.5px solid ${ink.edge};
    border-radius: 4px;
    background: ${ink.sheet};
  }
  &[data-selected] i {
    background: ${ink.solid};
    border-color: ${ink.solid};
    color: ${ink.onSolid};
  }
  strong {
    font-weight: 600;
  }
  small {
    font-size: 0.9375rem;
    color: ${ink.quiet};
  }
  &[data-hovered] {
    background: ${ink.shade};
  }
  &[data-focus-visible] {
    outline: 3px solid ${ink.water};
    outline-offset: -1px;
  }
`;

export type TickProps = {
  words: string;
  about: string;
  isSelected: boolean;
  onChange: (on: boolean) => void;
};

/** Something that can be on or off, with a word about it. */
export function Tick({ words, about, isSelected, onChange }: TickProps) {
  return (
    <Row isSelected={isSelected} onChange={onChange}>
      <i aria-hidden="true">
        {isSelected ? (
          <svg width="14" height="12" viewBox="0 0 14 12">
            <path d="M1,6 L5,10 L13,1" fill="none" stroke="currentColor" strokeWidth="2.5" />
          </svg>
        ) : null}
      </i>
      <span>
        <strong>{words}</strong> <small>{about}</small>
      </span>
    </Row>
  );
}
