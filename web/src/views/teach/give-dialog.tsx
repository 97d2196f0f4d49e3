// To whom an exercise is given, and until when.

import { useState } from "react";
import { useNavigate } from "react-router";
import styled from "styled-components";
import { api, said } from "../../api/client";
import { Button } from "../../parts/button";
import { Choice } from "../../parts/choice";
import { Dialog } from "../../parts/dialog";
import { boxed, Choices } from "../../parts/layout";
import { Notice } from "../../parts/notice";
import { Pick } from "../../parts/pick";
import { Tick } from "../../parts/tick";
import { Quiet } from "./layout";
import { useChange, useThisStudio } from "./use-studio";
import type { Task } from "./use-tasks";

const When = styled.label`
  display: grid;
  gap: 0.2rem;
  justify-items: start;
  input {
    ${boxed}
  }
`;
const Names = styled.div`
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(9rem, 1fr));
  max-height: 14rem;
  overflow: auto;
`;

const TO = [
  { id: "everyone", words: "Everyone" },
  { id: "group", words: "A group" },
  { id: "some", words: "Some pupils" },
  { id: "link", words: "By a code" },
] as const;
type To = (typeof TO)[number]["id"];

export function GiveDialog({ task, onClose }: { task: Task; onClose: () => void }) {
  const studio = useThisStudio();
  const navigate = useNavigate();
  const pupils = studio.members.filter((one) => one.role === "pupil");
  const [to, setTo] = useState<To>(pupils.length > 0 ? "everyone" : "link");
  const [group, setGroup] = useState(studio.groups[0]?.id ?? "");
  const [some, setSome] = useState<string[]>([]);
  const [due, setDue] = useState("");
  const give = useChange(
    () =>
      said(
        api.POST("/api/studios/{studio_id}/tasks/{task_id}/give", {
          params: { path: { studio_id: studio.id, task_id: task.id } },
          body: {
            everyone: to === "everyone",
            group: to === "group" ? group : null,
            members: to === "some" ? some : [],
            by_link: to === "link",
            due: due ? new Date(`${due}T23:59:00`).toISOString() : null,
          },
        }),
      ),
    (given) => navigate(`/teach/${studio.id}/given/${given.id}`),
  );
  const isReady =
    (to !== "group" || group !== "") && (to !== "some" || some.length > 0) && !give.isPending;
  return (
    <Dialog title={`Set “${task.name}”`} isOpen onClose={onClose} wide>
      <Choice label="To whom" value={to} options={TO} onChoose={setTo} />
      {to === "group" ? (
        studio.groups.length > 0 ? (
          <Pick
            label="Group"
            value={group}
            options={studio.groups.map((one) => ({ id: one.id, words: one.name }))}
            onPick={setGroup}
          />
        ) : (
          <Quiet>There is no group yet. Make one under “Studio”.</Quiet>
        )
      ) : null}
      {to === "some" ? (
        <Names role="group" aria-label="Pupils">
          {pupils.map((one) => (
            <Tick
              key={one.id}
              words={one.name}
              about=""
              isSelected={some.includes(one.id)}
              onChange={(on) =>
                setSome(on ? [...some, one.id] : some.filter((other) => other !== one.id))
              }
            />
          ))}
        </Names>
      ) : null}
      {to === "link" ? (
        <Quiet>You get a code for the wall. Whoever types it can do it, without an account.</Quiet>
      ) : null}
      <When>
        To be done by, if you like
        <input
          type="date"
          value={due}
          min={new Date().toISOString().slice(0, 10)}
          onChange={(event) => setDue(event.target.value)}
        />
      </When>
      {give.error ? <Notice>{give.error.message}</Notice> : null}
      <Choices>
        <Button onPress={onClose}>Cancel</Button>
        <Button weight="solid" isDisabled={!isReady} onPress={() => give.mutate(undefined)}>
          Set it
        </Button>
      </Choices>
    </Dialog>
  );
}
