// One exercise that a teacher has set: its parts, and how far they are. By its code it opens without
// an account.

import { useState } from "react";
import { Link, useParams } from "react-router";
import styled from "styled-components";
import { Button } from "../../parts/button";
import { Typed } from "../../parts/entry";
import { Notice } from "../../parts/notice";
import { useLearner } from "../../parts/use-learner";
import { ink, phone } from "../../theme/theme";
import { doneWords, dueWords, useBeginPart, useSetTask, wordsOf } from "../../today/use-set";
import { nameOf } from "../../words/names";

const Main = styled.main`
  display: grid;
  gap: 1.25rem;
  align-content: start;
  padding: 1.75rem 1.5rem 3rem;
  max-width: 52rem;
  width: 100%;
  margin: 0 auto;
  ${phone} {
    padding: 1rem 1rem 2rem;
  }
`;
const Quiet = styled.p`
  color: ${ink.quiet};
`;
const Parts = styled.ol`
  li {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    justify-content: space-between;
    gap: 0.5rem 1rem;
    padding: 0.75rem 0;
    border-top: 1px solid ${ink.line};
  }
  li:last-child {
    border-bottom: 1px solid ${ink.line};
  }
  small {
    display: block;
    font-size: 0.9375rem;
    color: ${ink.quiet};
  }
  a {
    display: inline-grid;
    align-content: center;
    min-height: 44px;
  }
`;
const Does = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.5rem 1rem;
`;

export function SetTaskView() {
  const { key = "" } = useParams();
  const task = useSetTask(key);
  const learner = useLearner();
  const begin = useBeginPart();
  const [called, setCalled] = useState("");
  if (task.error)
    return (
      <Main>
        <h1>Nothing to open here</h1>
        <Notice>{task.error.message}</Notice>
        <p>
          <Link to="/">To the first page</Link>
        </p>
      </Main>
    );
  if (!task.data) return <Main />;
  const { name, note, studio, teachers, due, parts, next } = task.data;
  const byCode = key.length < 20;
  const isNew = byCode && learner.data !== undefined && learner.data.who !== "learner";
  const first = parts.every((one) => one.times === 0 && !one.open);
  return (
    <Main>
      <Quiet>
        {studio}, {teachers.join(" and ")}
        {due ? ` · ${dueWords(due)}` : ""}
      </Quiet>
      <h1>{name}</h1>
      {note ? <p>{note}</p> : null}
      {isNew && first ? (
        <Typed
          label="Your name, if you like"
          value={called}
          most={30}
          onType={setCalled}
          onDone={() => undefined}
        />
      ) : null}
      {next === null ? <p>You have done all of it. {teachers[0] ?? studio} sees it.</p> : null}
      {begin.error ? <Notice>{begin.error.message}</Notice> : null}
      <Parts>
        {parts.map((part, number) => (
          <li key={number}>
            <span>
              <strong>{part.name}</strong>
              <small>
                {doneWords(part)}
                {part.help ? ` · help: ${nameOf("aids", part.help)}` : ""}
              </small>
            </span>
            <Does>
              {part.last ? (
                <Link to={`/${part.kind === "tune" ? "review" : "listen"}/${part.last}`}>
                  How it went
                </Link>
              ) : null}
              <Button
                weight={number === next ? "solid" : "plain"}
                size={number === next ? "tall" : "usual"}
                isDisabled={begin.isPending}
                aria-label={`${wordsOf(part)}: ${part.name}`}
                onPress={() => begin.mutate({ id: key, number, part, called })}
              >
                {wordsOf(part)}
              </Button>
            </Does>
          </li>
        ))}
      </Parts>
    </Main>
  );
}
