// What a teacher has set, on the first page; and after a part of it, what comes next.

import { Link } from "react-router";
import styled from "styled-components";
import { Button } from "../parts/button";
import { Notice } from "../parts/notice";
import { Strip } from "./strip";
import { dueWords, type SetTask, useBeginPart, useSet, wordsOf } from "./use-set";

const All = styled.div`
  display: grid;
  gap: 0.75rem;
`;

const MOST = 3;

/** What is still to be done of what was set; nothing where nothing was. */
export function SetForYou() {
  const set = useSet();
  const open = (set.data ?? []).filter((one) => one.next !== null);
  if (open.length === 0) return null;
  return (
    <All>
      {open.slice(0, MOST).map((task) => (
        <One key={task.id} task={task} />
      ))}
    </All>
  );
}

function One({ task }: { task: SetTask }) {
  const begin = useBeginPart();
  const number = task.next ?? 0;
  const part = task.parts[number];
  if (!part) return null;
  const due = dueWords(task.due);
  return (
    <Strip aria-label={`Set by ${task.studio}`}>
      <div>
        <strong>{task.name}</strong>
        <p>
          From {task.teachers[0] ?? task.studio}
          {due ? `, ${due}` : ""}. <Link to={`/set/${task.id}`}>All of it</Link>
        </p>
      </div>
      <Button
        weight="solid"
        size="tall"
        isDisabled={begin.isPending}
        onPress={() => begin.mutate({ id: task.id, number, part })}
      >
        {wordsOf(part)}: {part.name}
      </Button>
      {begin.error ? <Notice>{begin.error.message}</Notice> : null}
    </Strip>
  );
}

/** After a part of what was set: what comes next. Nothing where this was no part of it. */
export function NextInSet({ attempt }: { attempt: string }) {
  const set = useSet();
  const begin = useBeginPart();
  const task = set.data?.find((one) => one.parts.some((part) => part.last === attempt));
  if (!task) return null;
  const number = task.next;
  const part = number === null ? undefined : task.parts[number];
  if (number === null || !part)
    return (
      <Strip aria-label="Set">
        <strong>
          {task.name} is done. {task.teachers[0] ?? "Your teacher"} sees it.
        </strong>
        <Link to={`/set/${task.id}`}>All of it</Link>
      </Strip>
    );
  return (
    <Strip aria-label="Set">
      <div>
        <strong>{task.name}</strong>
        <p>Next: {part.name}</p>
      </div>
      <Button
        weight="solid"
        isDisabled={begin.isPending}
        onPress={() => begin.mutate({ id: task.id, number, part })}
      >
        {wordsOf(part)}
      </Button>
      {begin.error ? <Notice>{begin.error.message}</Notice> : null}
    </Strip>
  );
}
