import { Link } from "react-router";
import styled from "styled-components";
import type { ScorePage } from "../../api/client";
import { ink } from "../../theme/theme";

const Parts = styled.section`
  columns: 3 20rem;
  column-gap: 3rem;
  & > div {
    break-inside: avoid;
    padding-bottom: 1.75rem;
  }
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
  li > span:last-child {
    color: ${ink.quiet};
    white-space: nowrap;
  }
  li a {
    white-space: nowrap;
  }
`;

export type Part = ScorePage["lines"][number]["part"];
export const PARTS: Record<Part, { title: string; about: string }> = {
  match: {
    title: "Match",
    about: "How near each string came to what it was tuned to: the reference, a string, a reading.",
  },
  judgement: {
    title: "Judgement",
    about:
      "What you said against the truth. Half is your last word on each string, half the first after each turning. What the picture had shown, or you had not heard, earns nothing.",
  },
  technique: {
    title: "Technique",
    about: "The rules a teacher watches, as far as the exercise asks for them.",
  },
  pitch: {
    title: "Pitch",
    about: "Each string against the pitch that exact tuning by this method leads to.",
  },
  closing: {
    title: "Closing check",
    about: "Octaves and pairs at the end, against what the plan itself leaves there.",
  },
  bias: {
    title: "Bias",
    about: "Whether your judgements are too high or too low on average.",
  },
  reference: {
    title: "Reference check",
    about: "Where the reference may be wrong: whether you found it out.",
  },
  economy: {
    title: "Economy",
    about: "Turns and time against a good player’s; three times as many still earn all.",
  },
  safety: {
    title: "Safety",
    about: "No string far above its note, and none snapped.",
  },
  holding: {
    title: "Holding",
    about: "What a minute of playing moves, beyond what it moves for a good player.",
  },
};
const ORDER = Object.keys(PARTS) as Part[];

function shown(points: number): string {
  return Number.isInteger(points) ? String(points) : points.toFixed(1);
}

/** Every point and its reason, part by part. */
export function Reasons({ outcome, attempt }: { outcome: ScorePage; attempt: string }) {
  return (
    <Parts aria-label="Where the points come from">
      {ORDER.map((part) => {
        const lines = outcome.lines.filter((line) => line.part === part);
        if (lines.length === 0) return null;
        const sum = (pick: (line: ScorePage["lines"][number]) => number) =>
          Number(lines.reduce((total, line) => total + pick(line), 0).toFixed(1));
        return (
          <div key={part}>
            <h2>
              <span>{PARTS[part].title}</span>
              <span>
                {shown(sum((line) => line.points))} of {shown(sum((line) => line.out_of))}
              </span>
            </h2>
            <ul>
              {lines.map((line, index) => (
                <li key={`${line.string ?? ""}${line.rule}${index}`}>
                  <span>
                    {line.sentence}
                    {line.at_s !== null && line.points < line.out_of - 0.01 ? (
                      <>
                        {" "}
                        <Link to={`/review/${attempt}/replay?at=${line.at_s.toFixed(1)}`}>
                          Hear it
                        </Link>
                      </>
                    ) : null}
                  </span>
                  <span>
                    {shown(Number(line.points.toFixed(1)))} of{" "}
                    {shown(Number(line.out_of.toFixed(1)))}
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
