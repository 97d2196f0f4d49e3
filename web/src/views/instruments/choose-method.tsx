import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useLocation, useOutletContext } from "react-router";
import styled from "styled-components";
import { api, type Ranked, said, type RankingQuery } from "../../api/client";
import { Choice } from "../../parts/choice";
import { Notice } from "../../parts/notice";
import { ink, tablet } from "../../theme/theme";
import { tuningQuery } from "./asked";
import type { Prepared } from "./prepared";

type Answers = Required<
  Pick<RankingQuery, "company" | "noise" | "at_hand" | "how_far" | "purpose">
>;

const ANSWERS_KEY = "meldrin:situation";
const USUAL: Answers = {
  company: "alone",
  noise: "quiet",
  at_hand: "fork",
  how_far: "hair",
  purpose: "learn",
};
const QUESTIONS = [
  {
    id: "company",
    words: "Do you play alone or with others?",
    options: [
      { id: "alone", words: "Alone" },
      { id: "others", words: "With others" },
    ],
  },
  {
    id: "noise",
    words: "How is the room?",
    options: [
      { id: "quiet", words: "Quiet" },
      { id: "noisy", words: "Noisy" },
    ],
  },
  {
    id: "at_hand",
    words: "What can give you the pitch?",
    options: [
      { id: "nothing", words: "Nothing" },
      { id: "fork", words: "Fork" },
      { id: "notes", words: "Piano, pipe" },
      { id: "drone", words: "Drone" },
      { id: "tuner", words: "Tuner" },
    ],
  },
  {
    id: "how_far",
    words: "How far out is it?",
    options: [
      { id: "hair", words: "Slightly" },
      { id: "out", words: "Clearly" },
      { id: "slack", words: "Strings slack" },
    ],
  },
  {
    id: "purpose",
    words: "What is it for?",
    options: [
      { id: "learn", words: "To learn" },
      { id: "practice", words: "Practice" },
      { id: "stage", words: "A stage" },
      { id: "recording", words: "Recording" },
    ],
  },
] as const;

const Columns = styled.div`
  display: grid;
  grid-template-columns: minmax(20rem, 2fr) minmax(0, 3fr);
  gap: 1.5rem 3.5rem;
  align-items: start;
  max-width: 80rem;
  ${tablet} {
    grid-template-columns: minmax(0, 1fr);
  }
`;
const Ask = styled.div`
  display: grid;
  gap: 1rem;
  h2 {
    margin-bottom: 0.3rem;
    font-size: 1rem;
  }
`;
const Ranking = styled.ol`
  display: grid;
  li {
    display: grid;
    grid-template-columns: 2rem minmax(0, 1fr) auto;
    gap: 0.25rem 0.75rem;
    padding: 0.65rem 0;
    border-top: 1px solid ${ink.line};
    align-items: center;
  }
  li:last-child {
    border-bottom: 1px solid ${ink.line};
  }
  .place {
    font-size: 1.5rem;
    font-weight: 700;
    color: ${ink.water};
    align-self: start;
    line-height: 1.2;
  }
  p {
    color: ${ink.quiet};
  }
  .cannot {
    color: ${ink.quiet};
  }
  a {
    display: flex;
    align-items: center;
    min-height: 44px;
    padding: 0 0.9rem;
    border: 1.5px solid ${ink.edge};
    border-radius: 6px;
    text-decoration: none;
    font-weight: 600;
    background: ${ink.sheet};
    white-space: nowrap;
  }
  li:first-child a {
    background: ${ink.solid};
    color: ${ink.onSolid};
    border-color: ${ink.solid};
  }
`;

function stored(): Answers {
  try {
    return { ...USUAL, ...(JSON.parse(localStorage.getItem(ANSWERS_KEY) ?? "{}") as Answers) };
  } catch {
    return USUAL;
  }
}

/** Five plain questions, and the methods ranked by the answers, with a reason each. */
export function ChooseMethod() {
  const { asked } = useOutletContext<Prepared>();
  const [answers, setAnswers] = useState(stored);
  const ranking = useQuery({
    queryKey: ["methods", tuningQuery(asked), answers],
    queryFn: () =>
      said(api.GET("/api/methods", { params: { query: { ...tuningQuery(asked), ...answers } } })),
    placeholderData: keepPreviousData,
    retry: false,
  });
  return (
    <Columns>
      <Ask>
        {QUESTIONS.map((question) => (
          <div key={question.id}>
            <h2>{question.words}</h2>
            <Choice<string>
              label={question.words}
              value={answers[question.id]}
              options={question.options}
              onChoose={(value) => {
                const next = { ...answers, [question.id]: value } as Answers;
                localStorage.setItem(ANSWERS_KEY, JSON.stringify(next));
                setAnswers(next);
              }}
            />
          </div>
        ))}
      </Ask>
      <div>
        {ranking.error ? <Notice>{ranking.error.message}</Notice> : null}
        <Ranking aria-label="Methods, the best first">
          {(ranking.data ?? []).map((method, index) => (
            <Row key={method.method} method={method} place={index + 1} answers={answers} />
          ))}
        </Ranking>
      </div>
    </Columns>
  );
}

type RowProps = { method: Ranked; place: number; answers: Answers };

function Row({ method, place, answers }: RowProps) {
  const { search } = useLocation();
  const to = new URLSearchParams(search);
  to.set("method", method.method);
  // what was answered here goes on into the plan, its card and the exercise
  to.set("atHand", answers.at_hand);
  to.set("howFar", answers.how_far);
  if (answers.at_hand === "nothing") to.set("itself", "true");
  else to.delete("itself");
  if (answers.how_far === "hair") to.delete("second_pass");
  else to.set("second_pass", "true");
  return (
    <li>
      <span className="place" aria-hidden="true">
        {method.serves ? place : "–"}
      </span>
      <div className={method.serves ? "" : "cannot"}>
        <strong>{method.name}</strong>
        <p>{method.serves ? method.reasons.slice(0, 2).join(" ") : method.reasons[0]}</p>
      </div>
      {method.serves ? (
        <Link
          to={{ pathname: "/instruments/plan", search: to.toString() }}
          aria-label={`Show the plan: ${method.name}`}
        >
          Show the plan
        </Link>
      ) : null}
    </li>
  );
}
