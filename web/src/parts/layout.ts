// Blocks that more than one view lays out alike.

import { Link } from "react-router";
import styled, { css } from "styled-components";
import { ink } from "../theme/theme";

export const Centre = styled.main`
  display: grid;
  place-items: center;
  padding: 2rem;
  min-height: 60vh;
`;
/** What is chosen or typed stands in such a box. */
export const boxed = css`
  min-height: 44px;
  padding: 0.3rem 0.8rem;
  border: 1.5px solid ${ink.edge};
  border-radius: 6px;
  background: ${ink.sheet};
  color: ${ink.text};
  font: inherit;
`;
/** A table of lines: its heads are quiet, its first words are not. */
export const Table = styled.table`
  width: 100%;
  border-collapse: collapse;
  caption {
    text-align: left;
    font-size: 1.125rem;
    font-weight: 650;
    padding-bottom: 0.5rem;
  }
  thead th {
    font-weight: 600;
    color: ${ink.quiet};
    font-size: 0.9375rem;
  }
  th,
  td {
    text-align: left;
    padding: 0.5rem 0.75rem 0.5rem 0;
    border-bottom: 1px solid ${ink.line};
  }
`;
export const Choices = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 0.75rem;
  justify-content: flex-end;
`;
/** A link on a line of its own, as tall as any press. */
export const Onward = styled(Link)`
  display: inline-flex;
  align-items: center;
  min-height: 44px;
  justify-self: start;
`;
