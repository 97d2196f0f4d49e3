// One exercise of the collection: how it is done, tried by oneself, and given.

import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import styled from "styled-components";
import { type Aid, api, said } from "../../api/client";
import { Button } from "../../parts/button";
import { Choice } from "../../parts/choice";
import { Amount, Typed } from "../../parts/entry";
import { Notice } from "../../parts/notice";
import { Pick } from "../../parts/pick";
import { player } from "../../sound/player";
import { ink } from "../../theme/theme";
import { capital } from "../../words/formats";
import { nameOf, names, optionsOf } from "../../words/names";
import { named } from "../../words/notes";
import { GiveDialog } from "./give-dialog";
import { Buttons, Main, Part, Quiet, Two, Way } from "./layout";
import { useChange, useThisStudio } from "./use-studio";
import {
  type Part as TaskPart,
  settingsOf,
  type Task,
  type TaskSettings,
  useTask,
} from "./use-tasks";

const Parts = styled.ol`
  display: grid;
  gap: 0;
  & > li {
    display: grid;
    gap: 0.75rem;
    padding: 1rem 0;
    border-top: 1px solid ${ink.line};
  }
  & > li:last-child {
    border-bottom: 1px solid ${ink.line};
  }
`;
const Settings = styled.div`
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(11rem, 1fr));
  gap: 0.75rem 1rem;
  align-items: end;
`;

const STARTS = [
  { id: "own", words: "Each their own strings" },
  { id: "same", words: "The same strings for all" },
] as const;
const COUNTS = [
  { id: "best", words: "The best time counts" },
  { id: "last", words: "The last time" },
  { id: "first", words: "The first time" },
] as const;

export function Exercise() {
  const studio = useThisStudio();
  const { task: id = "" } = useParams();
  const task = useTask(studio.id, id);
  if (task.error)
    return (
      <Main>
        <Notice>{task.error.message}</Notice>
      </Main>
    );
  if (!task.data) return <Main />;
  return <Editor key={task.data.changed} task={task.data} />;
}

function Editor({ task }: { task: Task }) {
  const studio = useThisStudio();
  const navigate = useNavigate();
  const [now, setNow] = useState<TaskSettings>(() => settingsOf(task));
  const [gives, setGives] = useState(false);
  const change = (some: Partial<TaskSettings>) => setNow((before) => ({ ...before, ...some }));
  const path = { studio_id: studio.id, task_id: task.id };
  const keep = useChange(() =>
    said(api.PUT("/api/studios/{studio_id}/tasks/{task_id}", { params: { path }, body: now })),
  );
  const copy = useChange(
    () => said(api.POST("/api/studios/{studio_id}/tasks/{task_id}/copy", { params: { path } })),
    (made) => navigate(`/teach/${studio.id}/exercises/${made.id}`),
  );
  const erase = useChange(
    () => said(api.DELETE("/api/studios/{studio_id}/tasks/{task_id}", { params: { path } })),
    () => navigate(`/teach/${studio.id}/exercises`),
  );
  const isChanged = JSON.stringify(now) !== JSON.stringify(settingsOf(task));
  const problem = keep.error ?? copy.error ?? erase.error;
  const setPart = (at: number, part: TaskPart | null) =>
    change({
      parts: part
        ? now.parts.map((one, n) => (n === at ? part : one))
        : now.parts.filter((_, n) => n !== at),
    });
  return (
    <Main>
      <Two>
        <Part>
          <h1>{task.name}</h1>
          <Typed
            label="Name"
            value={now.name}
            most={40}
            onType={(name) => change({ name })}
            onDone={() => keep.mutate(undefined)}
          />
          <Typed
            label="A sentence to the pupils"
            value={now.note ?? ""}
            most={300}
            onType={(note) => change({ note })}
            onDone={() => keep.mutate(undefined)}
          />
          <Choice
            label="Which strings"
            value={now.starts ?? "own"}
            options={STARTS}
            onChoose={(starts) => change({ starts })}
          />
          <Choice
            label="What counts"
            value={now.counts ?? "best"}
            options={COUNTS}
            onChoose={(counts) => change({ counts })}
          />
          <Parts aria-label="Parts">
            {now.parts.map((part, at) => (
              <OnePart
                key={at}
                task={task}
                part={part}
                at={at}
                isChanged={isChanged}
                canGo={now.parts.length > 1}
                onSet={(next) => setPart(at, next)}
              />
            ))}
          </Parts>
          <Buttons>
            <Button
              weight="solid"
              isDisabled={!isChanged || keep.isPending}
              onPress={() => keep.mutate(undefined)}
            >
              {isChanged ? "Keep the changes" : "Kept"}
            </Button>
            {isChanged ? (
              <Button onPress={() => setNow(settingsOf(task))}>Undo the changes</Button>
            ) : null}
          </Buttons>
          {problem ? <Notice>{problem.message}</Notice> : null}
        </Part>
        <Part>
          <h2>Set it</h2>
          <Quiet>
            To a pupil, a group, or whoever has its code. Later changes do not touch it.
          </Quiet>
          <Buttons>
            <Button
              weight="solid"
              size="tall"
              isDisabled={isChanged}
              onPress={() => setGives(true)}
            >
              Set this exercise
            </Button>
          </Buttons>
          <h2>Add a part</h2>
          <AddPart
            into={`${studio.id}.${task.id}`}
            onAdd={(part) => change({ parts: [...now.parts, part] })}
          />
          <h2>Card to take home</h2>
          <Quiet>Strings, pegs and cautions of the instrument on one page, to be printed.</Quiet>
          <Buttons>
            <Way as={Link} to={`/instruments/before?instrument=${instrumentOf(now)}`}>
              Open the card
            </Way>
          </Buttons>
          <h2>Keep it elsewhere</h2>
          <Buttons>
            <Button onPress={() => copy.mutate(undefined)}>Copy</Button>
            <Way href={`/api/studios/${studio.id}/tasks/${task.id}/task.json`} download>
              Save as a file
            </Way>
            <Button onPress={() => erase.mutate(undefined)}>Erase</Button>
          </Buttons>
        </Part>
      </Two>
      {gives ? <GiveDialog task={task} onClose={() => setGives(false)} /> : null}
    </Main>
  );
}

type OnePartProps = {
  task: Task;
  part: TaskPart;
  at: number;
  isChanged: boolean;
  canGo: boolean;
  onSet: (part: TaskPart | null) => void;
};

function OnePart({ task, part, at, isChanged, canGo, onSet }: OnePartProps) {
  const studio = useThisStudio();
  const navigate = useNavigate();
  const tries = useMutation({
    mutationFn: () => {
      void player.start().catch(() => undefined); // within the press
      return said(
        api.POST("/api/studios/{studio_id}/tasks/{task_id}/try/{number}", {
          params: { path: { studio_id: studio.id, task_id: task.id, number: at } },
        }),
      );
    },
    onSuccess: (begun) =>
      navigate(`/${begun.practice === "bench" ? "tune" : "listen"}/${begun.id}`),
  });
  return (
    <li>
      <Buttons style={{ justifyContent: "space-between" }}>
        <strong>{isChanged ? nameNow(part) : (task.part_names[at] ?? nameNow(part))}</strong>
        <Buttons>
          {part.kind === "read" ? null : (
            <Button
              isDisabled={isChanged || tries.isPending}
              aria-label={`Try it: part ${at + 1}`}
              onPress={() => tries.mutate()}
            >
              Try it
            </Button>
          )}
          {canGo ? (
            <Button aria-label={`Take out part ${at + 1}`} onPress={() => onSet(null)}>
              Take out
            </Button>
          ) : null}
        </Buttons>
      </Buttons>
      {part.kind === "tune" ? (
        <Settings>
          <Fading part={part} onSet={onSet} />
          <Amount
            label="How often"
            value={part.times ?? 1}
            low={1}
            high={10}
            onEnter={(times) => onSet({ ...part, times: Math.round(times) })}
          />
          <Amount
            label="Minutes, 0 for no limit"
            value={(part.exercise.limit_s ?? 0) / 60}
            low={0}
            high={60}
            step={0.5}
            onEnter={(minutes) =>
              onSet({ ...part, exercise: { ...part.exercise, limit_s: Math.round(minutes * 60) } })
            }
          />
        </Settings>
      ) : null}
      {part.kind === "listen" ? (
        <Settings>
          <Amount
            label="How often"
            value={part.times ?? 1}
            low={1}
            high={10}
            onEnter={(times) => onSet({ ...part, times: Math.round(times) })}
          />
        </Settings>
      ) : null}
      {tries.error ? <Notice>{tries.error.message}</Notice> : null}
    </li>
  );
}

function instrumentOf({ parts }: TaskSettings): string {
  const [first] = parts;
  if (first?.kind === "read") return first.instrument;
  const on = first?.kind === "listen" ? first.sitting.instrument : first?.exercise.instrument;
  return on ?? "viola";
}

function nameNow(part: TaskPart): string {
  if (part.kind === "read") return part.page === "before" ? "Before you start" : "The plan";
  if (part.kind === "listen") return "A drill";
  return nameOf("starts", part.exercise.start ?? "hair");
}

type Tune = Extract<TaskPart, { kind: "tune" }>;

// The help of the first time, the second, and all after.
const FADES: readonly { id: string; words: string; helps: Aid[] }[] = [
  { id: "any", words: "Any help", helps: [] },
  {
    id: "level-ripple-ear",
    words: "Level, then Ripples, then Ear",
    helps: ["level", "ripple", "ear"],
  },
  { id: "ripple-ear", words: "Ripples, then Ear", helps: ["ripple", "ear"] },
  { id: "level", words: "At most Level", helps: ["level"] },
  { id: "ripple", words: "At most Ripples", helps: ["ripple"] },
  { id: "ear", words: "Ear only", helps: ["ear"] },
  { id: "tuner", words: "At most the tuner", helps: ["tuner"] },
];

function Fading({ part, onSet }: { part: Tune; onSet: (part: TaskPart) => void }) {
  const helps = part.helps ?? [];
  const known = FADES.find((one) => one.helps.join() === helps.join());
  const own = helps.map((aid) => optionsOf<Aid>("aids").find(({ id }) => id === aid)?.words ?? aid);
  return (
    <Pick
      label="Help, time by time"
      value={known?.id ?? "own"}
      options={[
        ...FADES.map(({ id, words }) => ({ id, words })),
        ...(known ? [] : [{ id: "own", words: own.join(", then ") }]),
      ]}
      onPick={(id) => {
        const fade = FADES.find((one) => one.id === id);
        if (!fade) return;
        const times = Math.max(part.times ?? 1, fade.helps.length);
        onSet({ ...part, helps: fade.helps, times });
      }}
    />
  );
}

type AddPartProps = { into: string; onAdd: (part: TaskPart) => void };

function AddPart({ into, onAdd }: AddPartProps) {
  const instruments = useQuery({
    queryKey: ["instruments"],
    queryFn: () => said(api.GET("/api/instruments")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const [instrument, setInstrument] = useState("viola");
  const [string, setString] = useState(3);
  const strings = instruments.data?.find((one) => one.id === instrument)?.strings ?? [];
  const [drill, setDrill] = useState(names().drills[0]?.id ?? "");
  return (
    <>
      <Pick
        label="On"
        value={instrument}
        options={(instruments.data ?? []).map((one) => ({ id: one.id, words: one.name }))}
        onPick={(id) => {
          setInstrument(id);
          setString(1);
        }}
      />
      <Pick
        label="String"
        value={String(string)}
        options={strings.map((one) => ({
          id: String(one.number),
          words: capital(named(one.label)),
        }))}
        onPick={(id) => setString(Number(id))}
      />
      <Pick label="Drill" value={drill} options={optionsOf("drills")} onPick={setDrill} />
      <Buttons>
        <Button
          onPress={() =>
            onAdd({
              kind: "listen",
              sitting: {
                drill,
                instrument,
                string,
                interval: names().drills.find((one) => one.id === drill)?.interval ?? "unison",
              },
              times: 1,
            })
          }
        >
          Add the drill
        </Button>
        <Button onPress={() => onAdd({ kind: "read", page: "before", instrument })}>
          Add “Before you start”
        </Button>
      </Buttons>
      <Buttons>
        <Way as={Link} to={`/tune?into=${into}`}>
          Add a part from the bench
        </Way>
      </Buttons>
    </>
  );
}
