import { Link } from "react-router";
import styled from "styled-components";
import type { ScorePage } from "../../api/client";
import { Fold } from "../../parts/fold";
import { ink, phone } from "../../theme/theme";
import { Terms } from "../../parts/terms";

const Parts = styled.section`
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(100%, 24rem), 1fr));
  gap: 0 3.5rem;
  align-items: start;
`;
const Line = styled.span`
  display: grid;
  grid-template-columns: 1.4rem minmax(5.5rem, 0.55fr) minmax(0, 1fr) auto;
  align-items: baseline;
  gap: 0.6rem;
  .mark,
  .title,
  .sum {
    font-weight: 650;
  }
  .what {
    color: ${ink.quiet};
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .sum {
    white-space: nowrap;
  }
  ${phone} {
    grid-template-columns: 1.2rem minmax(0, 1fr) auto;
    .what {
      grid-column: 2;
      font-size: 0.9375rem;
    }
    .what:empty {
      display: none;
    }
    .sum {
      grid-row: 1;
      grid-column: 3;
    }
  }
`;
const Sentences = styled.ul`
  li {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    gap: 1rem;
    padding: 0.4rem 0 0.4rem 2rem;
  }
  li + li {
    border-top: 1px solid ${ink.line};
  }
  li > span:last-child {
    color: ${ink.quiet};
    white-space: nowrap;
  }
  li a {
    white-space: nowrap;
  }
`;
const About = styled.p`
  padding-left: 2rem;
  color: ${ink.quiet};
  font-size: 0.9375rem;
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
  fault: {
    title: "The fault",
    about: "What is wrong, found by a check that shows it. A guess earns a quarter.",
  },
  remedy: { title: "What to do", about: "What mends it, and who does it." },
  holding: {
    title: "Holding",
    about: "What a minute of playing moves, beyond what it moves for a good player.",
  },
};
const ORDER = Object.keys(PARTS) as Part[];

function shown(points: number): string {
  return Number.isInteger(points) ? String(points) : points.toFixed(1);
}

type ScoreLine = ScorePage["lines"][number];
const LOST = 0.5; // points: less than that does not show in whole ones
const LOST_SHARE = 0.25; // of a line that is worth less than such a point
const FEW = 6; // strings that a line can name

const isMissed = (line: ScoreLine) =>
  line.out_of - line.points > Math.min(LOST, LOST_SHARE * line.out_of);

/** What was missed in a part, shortly: the strings it was about, or the rules. */
function missedWords(missed: ScoreLine[], outcome: ScorePage): string {
  if (missed.length === 0) return "";
  const labels = missed.flatMap(({ string }) => {
    const label = outcome.strings.find((one) => one.number === string)?.label;
    return label ? [label] : [];
  });
  const [first] = missed;
  const strings = [...new Set(labels)];
  if (strings.length > FEW) return `${strings.length} strings`;
  return strings.length > 0 ? strings.join(", ") : (first?.sentence ?? "");
}

/** Every part with its whole points, and what was missed; its sentences fold out. */
export function Reasons({ outcome, attempt }: { outcome: ScorePage; attempt: string }) {
  return (
    <Parts aria-label="Where the points come from">
      {ORDER.map((part) => {
        const lines = outcome.lines.filter((line) => line.part === part);
        if (lines.length === 0) return null;
        const missed = lines.filter(isMissed);
        const sum = (pick: (line: ScoreLine) => number) =>
          Math.round(lines.reduce((total, line) => total + pick(line), 0));
        return (
          <Fold
            key={part}
            head={
              <Line>
                <span className="mark">
                  {missed.length === 0 ? "✓" : missed.length}
                  <span className="unseen">{missed.length === 0 ? "" : " missed"}</span>
                </span>
                <span className="title">{PARTS[part].title}</span>
                <span className="what">{missedWords(missed, outcome)}</span>
                <span className="sum">
                  {sum((line) => line.points)} of {sum((line) => line.out_of)}
                </span>
              </Line>
            }
          >
            <About>
              <Terms text={PARTS[part].about} />
            </About>
            <Sentences>
              {lines.map((line, index) => (
                <li key={`${line.string ?? ""}${line.rule}${index}`}>
                  <span>
                    <Terms text={line.sentence} />
                    {line.at_s !== null && isMissed(line) ? (
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
            </Sentences>
          </Fold>
        );
      })}
    </Parts>
  );
}
