import styled from "styled-components";

/** The key that does the same as the control it stands on; of no use to a touch screen. */
export const KeyHint = styled.kbd.attrs({ "aria-hidden": true })`
  flex: none;
  min-width: 1.6em;
  padding: 0.05em 0.4em;
  border: 1px solid currentColor;
  border-radius: 4px;
  font: inherit;
  font-size: 0.8125rem;
  font-weight: 500;
  text-align: center;
  opacity: 0.75;
  @media (pointer: coarse), (max-width: 44.9em) {
    display: none;
  }
`;
