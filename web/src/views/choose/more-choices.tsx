import { keepPreviousData, useQuery } from "@tanstack/react-query";
import styled from "styled-components";
import {
  type Aid,
  api,
  type Exercise,
  type Instrument,
  said,
  type StartKind,
  type Tolerance,
} from "../../api/client";
import { Button } from "../../parts/button";
import { Choice } from "../../parts/choice";
import { CopyLink } from "../../parts/copy-link";
import { Amount } from "../../parts/entry";
import { Notice } from "../../parts/notice";
import { Pick } from "../../parts/pick";
import { Tick } from "../../parts/tick";
import { ink, phone, tablet } from "../../theme/theme";
import { capital } from "../../words/formats";
import {
  aboutOf,
  anyOrder,
  fromTrusted,
  harmonicMeetsFork,
  names,
  optionsOf,
  ordersOf,
  SETS_FRETS,
  setsFrets,
} from "../../words/names";
import { isOwn } from "./asked";
import { KeepForPupils } from "./keep-for-pupils";
import { offered, REALISM, type Realism, realismOf, toggled } from "./realism";
import { linkTo, storeAid, useStart } from "../../realtime/start";
import { named } from "../../words/notes";

const Fields = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 22rem) minmax(0, 22rem) minmax(0, 1fr);
  grid-template-rows: auto 1fr;
  gap: 1.5rem 2.5rem;
  padding: 0.75rem 0;
  align-content: start;
  [data-life] {
    grid-row: 1 / 3;
    grid-column: 3;
  }
  ${tablet} {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
    [data-life] {
      grid-row: auto;
      grid-column: 1 / -1;
    }
  }
  ${phone} {
    grid-template-columns: minmax(0, 1fr);
  }
`;
const Column = styled.section`
  display: grid;
  gap: 0.8rem;
  align-content: start;
  h2 {
    font-size: 1.0625rem;
  }
`;
const Ticks = styled.div`
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(15rem, 1fr));
  gap: 0 1rem;
  margin-top: -0.4rem;
`;
const Begin = styled.div`
  grid-column: 1 / 3;
  grid-row: 2;
  align-self: start;
  display: flex;
  flex-wrap: wrap;
  gap: 0.75rem 1.25rem;
  align-items: center;
  border-top: 1.5px solid ${ink.text};
  padding-top: 1.1rem;
  button {
    font-size: 1.1875rem;
    padding: 0.5rem 1.6rem;
  }
  p {
    color: ${ink.quiet};
  }
  ${tablet} {
    grid-column: 1 / -1;
    grid-row: auto;
  }
`;
const Quiet = styled.p`
  color: ${ink.quiet};
  font-size: 0.9375rem;
`;

/** Where a fault is to be found, nothing else is out of order. */
const ALL_ELSE_IN_ORDER: Partial<Exercise> = {
  start: "hair",
  came_from: "",
  out_string: 0,
  out_cents: 0,
  behaviours: [],
};

type Props = {
  exercise: Exercise;
  change: (some: Partial<Exercise>) => void;
  aid: Aid;
  setAid: (aid: Aid) => void;
  seed: number | null;
  made: Instrument | undefined;
};

/** All that can be chosen of an exercise, and its start. */
export function MoreChoices({ exercise, change, aid, setAid, seed, made }: Props) {
  const start = useStart();
  const { instrument = "guitar", method: wished = "unison", tuning = "standard" } = exercise;
  const query = { instrument, ...(/\d/.test(tuning) ? { notes: tuning } : { tuning }) };
  const ranked = useQuery({
    queryKey: ["methods", query],
    queryFn: () => said(api.GET("/api/methods", { params: { query } })),
    retry: false,
    placeholderData: keepPreviousData,
  });
  const serving = names().methods.filter(
    ({ id }) => ranked.data?.find((one) => one.method === id)?.serves ?? true,
  );
  const method =
    isOwn(wished) || serving.some(({ id }) => id === wished) ? wished : (serving[0]?.id ?? "each");
  const trusts = (exercise.itself ?? false) && fromTrusted(method);
  const isFault = method === "fault";
  const wanted: Exercise = {
    ...exercise,
    ...(isFault ? ALL_ELSE_IN_ORDER : {}),
    method,
    source: trusts ? "" : (exercise.source ?? ""),
    itself: trusts,
    first_string: trusts ? (exercise.first_string ?? 0) : 0,
    order: anyOrder(method) ? (exercise.order ?? "usual") : "usual",
  };
  const sources = useQuery({
    queryKey: ["sources", instrument, method, tuning, exercise.fifth_cents],
    queryFn: () =>
      said(
        api.GET("/api/sources", {
          params: {
            query: {
              instrument,
              method,
              tuning,
              fifth_cents: exercise.fifth_cents ?? null,
            },
          },
        }),
      ),
    retry: false,
    enabled: ranked.data !== undefined,
    placeholderData: keepPreviousData,
  });
  const behaviours = exercise.behaviours ?? [];
  const error = start.error ?? ranked.error;

  // All of it comes at once: what can be pressed does not move when the rest arrives.
  if (!error && !(made && ranked.data && (sources.data || sources.error))) return null;
  return (
    <Fields>
      <Column>
        <h2>The method</h2>
        {made ? (
          <TuningPick
            label="Tuning"
            made={made}
            value={tuning}
            onPick={(id) => change({ tuning: id })}
          />
        ) : null}
        <Pick
          label="Method"
          value={method}
          options={[
            ...serving.map(({ id, name, about }) => ({ id, words: name, about })),
            { id: "free", words: "Free play", about: "No plan, no points" },
            { id: "fault", words: "Find the fault", about: "Something is wrong with it: what?" },
          ]}
          onPick={(id) => change({ method: id, source: "" })}
        />
        {isFault ? (
          <Quiet>
            One thing is wrong with it: the nut, the saddle, a string, a peg, or the finger. Find
            out what by the checks you know, and say what to do.
          </Quiet>
        ) : null}
        {sources.data && sources.data.length > 1 && method !== "tuner" && !trusts && !isFault ? (
          <Pick
            label="What gives the pitch"
            value={exercise.source || (sources.data[0]?.source ?? "")}
            options={sources.data.map(({ source, words }) => ({
              id: source,
              words: capital(words),
            }))}
            onPick={(source) => change({ source })}
          />
        ) : null}
        {made &&
        !isFault &&
        harmonicMeetsFork(made) &&
        (exercise.source || sources.data?.[0]?.source) === "fork" ? (
          <Pick
            label="Match the fork"
            value={exercise.fork_at ?? "open"}
            options={optionsOf<NonNullable<Exercise["fork_at"]>>("fork_ats")}
            onPick={(fork_at) => change({ fork_at })}
          />
        ) : null}
        {fromTrusted(method) && made ? (
          <Trust made={made} exercise={exercise} change={change} />
        ) : null}
        {anyOrder(method) ? (
          <Pick
            label="Order"
            value={exercise.order ?? "usual"}
            options={ordersOf(method)}
            onPick={(order) => change({ order })}
          />
        ) : null}
        {made && setsFrets(method, made.fretting) ? (
          <Tick
            {...SETS_FRETS}
            isSelected={exercise.frets ?? false}
            onChange={(frets) => change({ frets })}
          />
        ) : null}
        {method === "fifths" ? (
          <Fifths
            value={exercise.fifth_cents ?? null}
            onPick={(fifth_cents) => change({ fifth_cents })}
          />
        ) : null}
      </Column>
      {isFault ? null : (
        <>
          <Column>
            <h2>How it starts, and how exact it gets</h2>
            <Pick
              label="Start"
              value={exercise.start ?? "hair"}
              options={optionsOf<StartKind>("starts")}
              onPick={(id) =>
                change({
                  start: id,
                  out_string: 0,
                  out_cents: 0,
                  came_from: id === "retune" ? otherTuning(made, tuning) : "",
                })
              }
            />
            {exercise.start === "retune" && made ? (
              <TuningPick
                label="It stands in"
                made={made}
                value={exercise.came_from || "standard"}
                onPick={(id) => change({ came_from: id })}
              />
            ) : null}
            {exercise.start === "one" && made ? (
              <OneOut made={made} exercise={exercise} change={change} />
            ) : null}
            <Pick
              label="Tolerance"
              value={exercise.tolerance ?? "settled"}
              options={optionsOf<Tolerance>("tolerances")}
              onPick={(tolerance) => change({ tolerance })}
            />
            <div>
              <Quiet>Help</Quiet>
              <Choice
                label="Help"
                value={aid}
                options={optionsOf<Aid>("aids").map(({ id, words }) => ({ id, words }))}
                onChoose={(id) => {
                  storeAid(id);
                  setAid(id);
                }}
              />
              <Quiet>{aboutOf("aids", aid)}</Quiet>
              {aid === "ripple" ? (
                <Tick
                  words="Show numbers"
                  about="beats as numbers too; the best score is 60"
                  isSelected={exercise.numbers ?? false}
                  onChange={(numbers) => change({ numbers })}
                />
              ) : null}
              <Tick
                words="Say low or high before the first turn"
                about="off for the very first lessons"
                isSelected={exercise.decides ?? true}
                onChange={(decides) => change({ decides })}
              />
              <Tick
                words="Answer at once"
                about="how each string is, once you have said it; what you say first counts"
                isSelected={exercise.answers ?? false}
                onChange={(answers) => change({ answers })}
              />
            </div>
          </Column>
          <Column data-life>
            <h2>Realism</h2>
            <Choice
              label="Realism"
              value={realismOf(behaviours) as Exclude<Realism, "own">}
              options={(["plain", "lively", "life"] as const).map((id) => ({
                id,
                words: REALISM[id].words,
              }))}
              onChoose={(id) => change({ behaviours: REALISM[id].set })}
            />
            <Ticks>
              {offered(made).map(({ id, name, about }) => (
                <Tick
                  key={id}
                  words={name}
                  about={about}
                  isSelected={behaviours.some((one) => one === id)}
                  onChange={(on) => change({ behaviours: toggled(behaviours, id, on) })}
                />
              ))}
            </Ticks>
          </Column>
        </>
      )}
      <Begin>
        <Button
          weight="solid"
          size="tall"
          isDisabled={start.isPending || !made}
          onPress={() => start.mutate({ exercise: { ...wanted, aid }, seed })}
        >
          Start and hear it
        </Button>
        {made?.own ? null : (
          <CopyLink
            words="Copy a link to this exercise"
            link={() => linkTo({ ...wanted, aid }, seed)}
          />
        )}
        <KeepForPupils exercise={{ ...wanted, aid }} />
        <p>Starts quiet. With headphones on, keep the level low first.</p>
        {error ? <Notice>{error.message}</Notice> : null}
      </Begin>
    </Fields>
  );
}

function otherTuning(made: Instrument | undefined, tuning: string): string {
  return made?.tunings.find((one) => one.id !== tuning)?.id ?? "standard";
}

type TuningProps = {
  label: string;
  made: Instrument;
  value: string;
  onPick: (id: string) => void;
};

/** The tunings of the catalogue, and the one that was asked for by its notes. */
function TuningPick({ label, made, value, onPick }: TuningProps) {
  const known = made.tunings.some((one) => one.id === value);
  const options = made.tunings.map((one) => ({
    id: one.id,
    words: one.name,
    about: named(one.notes),
  }));
  if (!known) options.push({ id: value, words: value, about: "Your own notes" });
  return (
    <Pick
      label={label}
      value={value}
      options={options}
      search="Find by name or notes"
      onPick={onPick}
    />
  );
}

const FIFTHS = [
  { id: "pure", words: "Pure fifths", cents: null },
  { id: "equal", words: "Equal-tempered", cents: -1.955 },
  { id: "narrow", words: "Narrowed by 1 cent", cents: -1 },
  { id: "wide", words: "Widened by 1 cent", cents: 1 },
] as const;

function Fifths({
  value,
  onPick,
}: {
  value: number | null;
  onPick: (cents: number | null) => void;
}) {
  const known = FIFTHS.find((one) => one.cents === value);
  return (
    <Pick
      label="How wide the fifths are"
      value={known?.id ?? "other"}
      options={[
        ...FIFTHS.map(({ id, words }) => ({ id: id as string, words })),
        ...(known ? [] : [{ id: "other", words: `Changed by ${value} cents` }]),
      ]}
      onPick={(id) => onPick(FIFTHS.find((one) => one.id === id)?.cents ?? null)}
    />
  );
}

/** Nothing at hand: which string is trusted as it is, so that the others follow it. */
function Trust({ made, exercise, change }: OneProps) {
  return (
    <>
      <Tick
        words="Trust one string as it is"
        about="nothing else at hand: the others follow it"
        isSelected={exercise.itself ?? false}
        onChange={(itself) => change({ itself, source: "" })}
      />
      {exercise.itself ? (
        <Pick
          label="The string you trust"
          value={String(exercise.first_string ?? 0)}
          options={[
            { id: "0", words: "The usual one" },
            ...made.strings
              .filter((string) => string.role === "playing")
              .map((string) => ({
                id: String(string.number),
                words: capital(named(string.label)),
              })),
          ]}
          onPick={(id) => change({ first_string: Number(id) })}
        />
      ) : null}
    </>
  );
}

type OneProps = {
  made: Instrument;
  exercise: Exercise;
  change: (some: Partial<Exercise>) => void;
};

/** Which string is put out on purpose, and by how much; at random unless it is said. */
function OneOut({ made, exercise, change }: OneProps) {
  const out = exercise.out_string ?? 0;
  return (
    <>
      <Pick
        label="The string that is out"
        value={String(out)}
        options={[
          { id: "0", words: "Random" },
          ...made.strings.map((string) => ({
            id: String(string.number),
            words: capital(named(string.label)),
          })),
        ]}
        onPick={(id) =>
          change({ out_string: Number(id), out_cents: id === "0" ? 0 : exercise.out_cents || -20 })
        }
      />
      {out ? (
        <Amount
          label="Out by how many cents (low: with a minus)"
          value={exercise.out_cents ?? -20}
          low={-120}
          high={120}
          onEnter={(out_cents) => change({ out_cents })}
        />
      ) : null}
    </>
  );
}
