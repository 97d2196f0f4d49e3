import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useOutletContext } from "react-router";
import styled from "styled-components";
import { api, said, type Schemas } from "../../api/client";
import { Button } from "../../parts/button";
import { Choice } from "../../parts/choice";
import { Amount } from "../../parts/entry";
import { Notice } from "../../parts/notice";
import { ink, phone, tablet } from "../../theme/theme";
import type { Prepared } from "./prepared";

type Answers = Record<string, string | number>;
type Finding = Schemas["FitnessFinding"];

const WORDS: Record<Finding["remedy"], string> = {
  fine: "Fine",
  mind: "Mind this",
  strings: "Change strings",
  wait: "Give it time",
  repairer: "Repairer",
};

const Columns = styled.div`
  display: grid;
  gap: 1rem;
  max-width: 80rem;
`;
const Advice = styled.div`
  position: sticky;
  top: 0;
  z-index: 1;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: space-between;
  gap: 0.5rem 1.5rem;
  background: ${ink.paper};
  padding: 0.4rem 0 0.6rem;
  border-bottom: 1.5px solid ${ink.text};
  p {
    font-size: 1.375rem;
    font-weight: 650;
    line-height: 1.25;
  }
`;
const Looks = styled.ol`
  li {
    display: grid;
    grid-template-columns: 2rem minmax(16rem, 5fr) minmax(15rem, 5fr) minmax(0, 7fr);
    gap: 0.3rem 1.25rem;
    align-items: start;
    padding: 0.7rem 0;
    border-bottom: 1px solid ${ink.line};
  }
  .place {
    font-size: 1.25rem;
    font-weight: 700;
    color: ${ink.water};
    line-height: 1.2;
  }
  .how {
    color: ${ink.quiet};
  }
  .finding {
    border-left: 4px solid ${ink.line};
    padding-left: 0.75rem;
  }
  .finding.mind,
  .finding.wait {
    border-left-color: ${ink.edge};
  }
  .finding.repairer,
  .finding.strings {
    border-left-color: ${ink.amber};
  }
  .finding.repairer strong,
  .finding.strings strong {
    color: ${ink.amber};
  }
  label {
    position: absolute;
    width: 1px;
    height: 1px;
    overflow: hidden;
    clip-path: inset(50%);
  }
  .amount {
    display: flex;
    align-items: center;
    gap: 0.5rem;
    position: relative;
  }
  ${tablet} {
    li {
      grid-template-columns: 2rem minmax(0, 1fr) minmax(0, 1fr);
    }
    .finding {
      grid-column: 2 / -1;
    }
  }
  ${phone} {
    li {
      grid-template-columns: 2rem minmax(0, 1fr);
    }
    li > * {
      grid-column: 2;
    }
    li > .place {
      grid-column: 1;
    }
  }
`;
const Tall = styled.div`
  [role="radiogroup"],
  & > div {
    flex-direction: column;
  }
  && button + button {
    border-left: 0;
    border-top: 1.5px solid ${ink.edge};
  }
`;

/** Is the instrument fit to be tuned: one look after another, and plain advice. Nothing is kept
 * but what the pegs do, which the plan’s exercise has too. */
export function Fitness() {
  const { instrument, change } = useOutletContext<Prepared>();
  return (
    <Check
      key={instrument.id}
      id={instrument.id}
      name={instrument.name}
      onPegs={(pegs) => change({ pegs: pegs === "slip" || pegs === "stick" ? pegs : "" })}
    />
  );
}

function Check({
  id,
  name,
  onPegs,
}: {
  id: string;
  name: string;
  onPegs: (found: string) => void;
}) {
  const [answers, setAnswers] = useState<Answers>({});
  const questions = useQuery({
    queryKey: ["fitness", id],
    queryFn: () => said(api.GET("/api/fitness", { params: { query: { instrument_id: id } } })),
    staleTime: Infinity,
  });
  const found = useQuery({
    queryKey: ["fitness", id, answers],
    queryFn: () => said(api.POST("/api/fitness", { body: { instrument: id, answers } })),
    placeholderData: keepPreviousData,
    retry: false,
  });
  const finding = (question: string) =>
    found.data?.findings.find((one) => one.question === question);
  return (
    <Columns>
      <Advice role="status" aria-live="polite">
        <p>
          {Object.keys(answers).length > 0
            ? found.data?.advice
            : `Look the ${short(name)} over first.`}
        </p>
        <Button
          weight="bare"
          isDisabled={Object.keys(answers).length === 0}
          onPress={() => {
            setAnswers({});
            onPegs("");
          }}
        >
          Start again
        </Button>
      </Advice>
      {questions.error ? <Notice>{questions.error.message}</Notice> : null}
      {found.error ? <Notice>{found.error.message}</Notice> : null}
      <Looks>
        {(questions.data ?? []).map((question, index) => (
          <li key={question.id}>
            <span className="place" aria-hidden="true">
              {index + 1}
            </span>
            <div>
              <strong>{question.title}</strong>
              <p className="how">{question.how}</p>
            </div>
            {question.options.length > 0 ? (
              <Tall>
                <Choice<string>
                  label={question.title}
                  value={(answers[question.id] as string | undefined) ?? null}
                  options={question.options.map(({ value, words }) => ({ id: value, words }))}
                  onChoose={(value) => {
                    setAnswers({ ...answers, [question.id]: value });
                    if (question.id === "pegs") onPegs(value);
                  }}
                />
              </Tall>
            ) : (
              <div className="amount">
                <Amount
                  label={`${question.title}, in ${question.unit}`}
                  value={(answers[question.id] as number | undefined) ?? null}
                  low={question.low}
                  high={question.high}
                  step={0.5}
                  onEnter={(value) => setAnswers({ ...answers, [question.id]: value })}
                />
                <span>{question.unit}</span>
              </div>
            )}
            <Found finding={question.id in answers ? finding(question.id) : undefined} />
          </li>
        ))}
      </Looks>
    </Columns>
  );
}

function Found({ finding }: { finding: Finding | undefined }) {
  if (!finding) return <span />;
  return (
    <div className={`finding ${finding.remedy}`}>
      <strong>{WORDS[finding.remedy]}.</strong> {finding.sentence}
    </div>
  );
}

function short(name: string): string {
  return (name.split(",")[0] ?? name).toLowerCase();
}
