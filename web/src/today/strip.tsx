// A line between what was done and what comes next: words, and what is pressed.

import styled from "styled-components";
import { ink, phone } from "../theme/theme";

export const Strip = styled.section`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: space-between;
  gap: 0.75rem 1.5rem;
  padding: 0.9rem 1.25rem;
  border: 1.5px solid ${ink.line};
  border-radius: 8px;
  background: ${ink.sheet};
  p {
    color: ${ink.quiet};
  }
  a {
    display: inline-grid;
    align-content: center;
    min-height: 44px;
  }
  ${phone} {
    padding: 0.75rem 1rem;
  }
`;
