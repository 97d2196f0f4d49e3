// The school's instruments, by what stands on their labels.

import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, type Behaviour, said, type Schemas } from "../../api/client";
import { Button } from "../../parts/button";
import { Dialog } from "../../parts/dialog";
import { Typed } from "../../parts/entry";
import { Choices, Table } from "../../parts/layout";
import { Notice } from "../../parts/notice";
import { Pick } from "../../parts/pick";
import { Tick } from "../../parts/tick";
import { nameOf, optionsOf } from "../../words/names";
import { Buttons, Main, Part, Quiet, Scroll, Way } from "./layout";
import { useChange, useThisStudio } from "./use-studio";

type Shelved = Schemas["ShelvedInstrument"];
type Wanted = Schemas["StudioInstrument"];

const NEW: Wanted = {
  shelf: "",
  instrument: "viola",
  tuning: "standard",
  behaviours: [],
  note: "",
};

export function Shelf() {
  const studio = useThisStudio();
  const [open, setOpen] = useState<{ id: string | null; wanted: Wanted } | null>(null);
  const instruments = useQuery({
    queryKey: ["instruments"],
    queryFn: () => said(api.GET("/api/instruments")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const called = (id: string) => instruments.data?.find((one) => one.id === id)?.name ?? id;
  const tuningCalled = (one: Shelved) =>
    instruments.data
      ?.find(({ id }) => id === one.instrument)
      ?.tunings.find(({ id }) => id === one.tuning)?.name ?? one.tuning;
  return (
    <Main>
      <Part>
        <h1>The school’s instruments</h1>
        <Quiet>
          Each has its label, its tuning, and what is peculiar to it, so that an exercise can be set
          on the very one a pupil holds.
        </Quiet>
        {studio.instruments.length > 0 ? (
          <Scroll>
            <Table aria-label="Instruments">
              <thead>
                <tr>
                  <th scope="col">Label</th>
                  <th scope="col">Instrument</th>
                  <th scope="col">Tuning</th>
                  <th scope="col">What is peculiar to it</th>
                  <td />
                </tr>
              </thead>
              <tbody>
                {studio.instruments.map((one) => (
                  <tr key={one.id}>
                    <td>
                      <strong>{one.shelf}</strong>
                    </td>
                    <td>{called(one.instrument)}</td>
                    <td>{tuningCalled(one)}</td>
                    <td>{peculiar(one)}</td>
                    <td>
                      <Buttons>
                        <Way as={Link} to={exerciseOn(one)} aria-label={`Exercise on ${one.shelf}`}>
                          Exercise
                        </Way>
                        <Button
                          aria-label={`Change ${one.shelf}`}
                          onPress={() => setOpen({ id: one.id, wanted: one })}
                        >
                          Change
                        </Button>
                      </Buttons>
                    </td>
                  </tr>
                ))}
              </tbody>
            </Table>
          </Scroll>
        ) : null}
        <Buttons>
          <Button
            weight={studio.instruments.length === 0 ? "solid" : "plain"}
            onPress={() => setOpen({ id: null, wanted: NEW })}
          >
            Add an instrument
          </Button>
        </Buttons>
      </Part>
      {open && instruments.data ? (
        <Editor {...open} catalogue={instruments.data} onClose={() => setOpen(null)} />
      ) : null}
    </Main>
  );
}

/** Where an exercise on this very instrument is chosen: its tuning, and what is peculiar to it. */
function exerciseOn({ instrument, tuning, behaviours }: Shelved): string {
  const exercise = { instrument, tuning, behaviours };
  return `/tune?${new URLSearchParams({ exercise: JSON.stringify(exercise) })}`;
}

function peculiar(one: Shelved): string {
  const behaviours = (one.behaviours ?? []).map((id) => nameOf("behaviours", id));
  return [...behaviours, one.note].filter(Boolean).join(". ") || "–";
}

const OWN_NOTES = "own";

type EditorProps = {
  id: string | null;
  wanted: Wanted;
  catalogue: Schemas["CatalogueInstrument"][];
  onClose: () => void;
};

function Editor({ id, wanted, catalogue, onClose }: EditorProps) {
  const studio = useThisStudio();
  const [now, setNow] = useState<Wanted>({
    shelf: wanted.shelf,
    instrument: wanted.instrument,
    tuning: wanted.tuning ?? "standard",
    behaviours: wanted.behaviours ?? [],
    note: wanted.note ?? "",
  });
  const change = (some: Partial<Wanted>) => setNow((before) => ({ ...before, ...some }));
  const studioPath = { studio_id: studio.id };
  const keep = useChange(async () => {
    if (id === null)
      await said(
        api.POST("/api/studios/{studio_id}/instruments", {
          params: { path: studioPath },
          body: now,
        }),
      );
    else
      await said(
        api.PUT("/api/studios/{studio_id}/instruments/{instrument_id}", {
          params: { path: { ...studioPath, instrument_id: id } },
          body: now,
        }),
      );
  }, onClose);
  const remove = useChange(
    () =>
      said(
        api.DELETE("/api/studios/{studio_id}/instruments/{instrument_id}", {
          params: { path: { ...studioPath, instrument_id: id ?? "" } },
        }),
      ),
    onClose,
  );
  const chosen = catalogue.find((one) => one.id === now.instrument);
  // none of its tunings: notes of its own
  const named = chosen?.tunings.find((one) => one.id === (now.tuning ?? "standard"));
  const behaviours = now.behaviours ?? [];
  const problem = keep.error ?? remove.error;
  return (
    <Dialog
      title={id === null ? "Add an instrument" : `Instrument ${wanted.shelf}`}
      isOpen
      onClose={onClose}
      wide
    >
      <Typed
        label="Label, as it stands on the shelf"
        value={now.shelf}
        most={12}
        placeholder="V3"
        onType={(shelf) => change({ shelf })}
        onDone={() => undefined}
      />
      <Pick
        label="Instrument"
        value={now.instrument}
        options={catalogue.map((one) => ({ id: one.id, words: one.name }))}
        onPick={(instrument) => change({ instrument, tuning: "standard" })}
      />
      <Pick
        label="Tuning"
        value={named?.id ?? OWN_NOTES}
        options={[
          ...(chosen?.tunings ?? []).map((one) => ({ id: one.id, words: one.name })),
          { id: OWN_NOTES, words: "Its own notes …" },
        ]}
        onPick={(tuning) =>
          change({
            tuning: tuning === OWN_NOTES ? (named?.notes ?? now.tuning ?? "standard") : tuning,
          })
        }
      />
      {named ? null : (
        <Typed
          label="Its notes, from the last string to the first"
          value={now.tuning ?? ""}
          most={200}
          placeholder={chosen?.tunings[0]?.notes ?? ""}
          onType={(tuning) => change({ tuning })}
          onDone={() => undefined}
        />
      )}
      <div role="group" aria-label="What is peculiar to it">
        {optionsOf<Behaviour>("behaviours").map((one) => (
          <Tick
            key={one.id}
            words={one.words}
            about={one.about}
            isSelected={behaviours.includes(one.id)}
            onChange={(on) =>
              change({
                behaviours: on
                  ? [...behaviours, one.id]
                  : behaviours.filter((other) => other !== one.id),
              })
            }
          />
        ))}
      </div>
      <Typed
        label="A sentence about it"
        value={now.note ?? ""}
        most={120}
        placeholder="The E is stubborn."
        onType={(note) => change({ note })}
        onDone={() => undefined}
      />
      {problem ? <Notice>{problem.message}</Notice> : null}
      <Choices>
        {id === null ? null : (
          <Button onPress={() => remove.mutate(undefined)}>Take it off the shelf</Button>
        )}
        <Button onPress={onClose}>Cancel</Button>
        <Button
          weight="solid"
          isDisabled={now.shelf.trim() === "" || keep.isPending}
          onPress={() => keep.mutate(undefined)}
        >
          Keep
        </Button>
      </Choices>
    </Dialog>
  );
}
