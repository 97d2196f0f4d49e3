import styled from "styled-components";
import type { Outcome } from "../../api/client";
import { ink } from "../../theme/theme";

const Parts = styled.section`
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(20rem, 1fr));
  gap: 1.75rem 3rem;
  h2 {
    display: flex;
    justify-content: space-between;
    gap: 1rem;
    border-bottom: 1.5px solid ${ink.text};
    padding-bottom: 0.3rem;
  }
  h2 > span:last-child {
    white-space: nowrap;
  }
  li {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    gap: 1rem;
    padding: 0.4rem 0;
    border-bottom: 1px solid ${ink.line};
  }
  li span:last-child {
    color: ${ink.quiet};
    white-space: nowrap;
  }
`;

type Part = Outcome["lines"][number]["part"];
const TITLES: Record<Part, string> = {
  matched: "Each string against its partner",
  judged: "What you believed",
  placed: "Each string against its target",
  from_below: "Arriving from below",
  overshoot: "Not turning past the pitch",
  closed: "How the end meets the beginning",
};
const ORDER = Object.keys(TITLES) as Part[];

function shown(points: number): string {
  return Number.isInteger(points) ? String(points) : points.toFixed(1);
}

/** Every point and its reason, part by part. */
export function Reasons({ outcome }: { outcome: Outcome }) {
  return (
    <Parts aria-label="Where the points come from">
      {ORDER.map((part) => {
        const lines = outcome.lines.filter((line) => line.part === part);
        if (lines.length === 0) return null;
        const sum = (pick: (line: Outcome["lines"][number]) => number) =>
          Number(lines.reduce((total, line) => total + pick(line), 0).toFixed(1));
        return (
          <div key={part}>
            <h2>
              <span>{TITLES[part]}</span>
              <span>
                {shown(sum((line) => line.points))} of {shown(sum((line) => line.out_of))}
              </span>
            </h2>
            <ul>
              {lines.map((line) => (
                <li key={line.string ?? 0}>
                  <span>{line.sentence}</span>
                  <span>
                    {shown(Number(line.points.toFixed(1)))} of {shown(line.out_of)}
                  </span>
                </li>
              ))}
            </ul>
          </div>
        );
      })}
    </Parts>
  );
}
