// How often each answer was given: a bar for each, high above low, the right one in water.

import styled from "styled-components";
import type { Schemas } from "../api/client";
import { ink, phone } from "../theme/theme";

const Bars = styled.ul`
  display: grid;
  gap: 0.5rem;
  width: 100%;
  max-width: 60rem;
  text-align: left;
  font-size: 1.375rem;
  li {
    display: grid;
    grid-template-columns: minmax(7rem, 12rem) minmax(0, 1fr) 2.5rem;
    gap: 1rem;
    align-items: center;
  }
  li > span:last-child {
    text-align: right;
    font-weight: 650;
  }
  li[data-right="true"] {
    font-weight: 700;
  }
  i {
    display: block;
    height: 2rem;
    border-radius: 4px;
    background: ${ink.edge};
    min-width: 3px;
  }
  li[data-right="true"] i {
    background: ${ink.water};
  }
  ${phone} {
    font-size: 1rem;
    li {
      grid-template-columns: 6.5rem minmax(0, 1fr) 1.5rem;
      gap: 0.5rem;
    }
    i {
      height: 1.25rem;
    }
  }
`;

type Props = {
  question: Schemas["RoundQuestion"];
  truth: Schemas["RoundTruth"];
};

export function SaidBars({ question, truth }: Props) {
  const rows = question.answers.map((answer, at) => ({
    ...answer,
    at,
    count: truth.counts[at] ?? 0,
  }));
  const most = Math.max(1, ...truth.counts);
  return (
    <Bars aria-label="What was said">
      {(question.order === "upwards" ? rows.toReversed() : rows).map((one) => (
        <li key={one.id} data-right={one.at === truth.right}>
          <span>
            {one.words}
            {one.at === truth.right ? " ✓" : ""}
          </span>
          <i style={{ width: `${(100 * one.count) / most}%` }} />
          <span>{one.count}</span>
        </li>
      ))}
    </Bars>
  );
}
