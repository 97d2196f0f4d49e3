// Blocks that the pages of a studio lay out alike.

import styled from "styled-components";
import { ink, phone, tablet } from "../../theme/theme";

export const Main = styled.main`
  display: grid;
  gap: 1.5rem;
  align-content: start;
  padding: 1.75rem 1.5rem 3rem;
  max-width: 76rem;
  width: 100%;
  margin: 0 auto;
  ${phone} {
    padding: 1rem 1rem 2rem;
  }
`;
export const Two = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1.9fr) minmax(0, 1fr);
  gap: 2.5rem;
  align-items: start;
  ${tablet} {
    grid-template-columns: minmax(0, 1fr);
    gap: 2rem;
  }
`;
export const Part = styled.section`
  display: grid;
  gap: 0.75rem;
  align-content: start;
  min-width: 0;
`;
export const Quiet = styled.p`
  color: ${ink.quiet};
  max-width: 42rem;
`;
export const Buttons = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 0.75rem;
  align-items: center;
`;
/** What is written on a wall: read from the back of a room. */
export const OnTheWall = styled.p`
  font-size: 2.5rem;
  line-height: 1.1;
  font-weight: 750;
  letter-spacing: 0.04em;
  white-space: nowrap;
  ${phone} {
    font-size: 2rem;
  }
`;
/** What is wide scrolls by itself, the page does not; hidden fields in it are held here too. */
export const Scroll = styled.div`
  position: relative;
  overflow-x: auto;
  min-width: 0;
`;
export const Lines = styled.ul`
  li {
    display: flex;
    align-items: center;
    justify-content: space-between;
    gap: 0.25rem 1rem;
    min-height: 52px;
    padding: 0.3rem 0;
    border-top: 1px solid ${ink.line};
  }
  li:last-child {
    border-bottom: 1px solid ${ink.line};
  }
  li > span {
    flex: 1;
    min-width: 0;
  }
  small {
    display: block;
    font-size: 0.9375rem;
    color: ${ink.quiet};
  }
`;
/** A link that looks as a button does. */
export const Way = styled.a`
  display: flex;
  align-items: center;
  min-height: 44px;
  padding: 0 0.9rem;
  border: 1.5px solid ${ink.edge};
  border-radius: 6px;
  background: ${ink.sheet};
  font-weight: 600;
  text-decoration: none;
`;
