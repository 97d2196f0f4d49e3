// A class from a list: pasted or from a file, looked at, made, and its slips printed.

import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { FileTrigger, Label, TextArea, TextField } from "react-aria-components";
import styled from "styled-components";
import { api, said, type Schemas } from "../../api/client";
import { Button } from "../../parts/button";
import { Dialog } from "../../parts/dialog";
import { boxed, Choices, Table } from "../../parts/layout";
import { Notice } from "../../parts/notice";
import { Quiet, Scroll } from "./layout";
import { saveFile, type Studio, useChange } from "./use-studio";

const Box = styled(TextArea)`
  ${boxed}
  width: 100%;
  min-height: 11rem;
  resize: vertical;
  font-weight: 500;
`;
const Field = styled(TextField)`
  display: grid;
  gap: 0.2rem;
`;

type Props = { studio: Studio; onClose: () => void };

export function ListDialog({ studio, onClose }: Props) {
  const [text, setText] = useState("");
  const path = { params: { path: { studio_id: studio.id } } };
  const look = useMutation({
    mutationFn: () =>
      said(api.POST("/api/studios/{studio_id}/class/look", { ...path, body: { text } })),
  });
  const make = useChange(() =>
    said(api.POST("/api/studios/{studio_id}/class", { ...path, body: { text } })),
  );
  if (make.data) return <Slips studio={studio} slips={make.data} onClose={onClose} />;
  const listed = look.data;
  const problem = look.error ?? make.error;
  const taken = listed?.filter((one) => one.taken).length ?? 0;
  return (
    <Dialog title="Make a class from a list" isOpen onClose={onClose} wide>
      {listed ? (
        <Scroll>
          <Table>
            <caption>
              {listed.length === 1 ? "1 pupil" : `${listed.length} pupils`} on this list
            </caption>
            <thead>
              <tr>
                <th scope="col">Pupil</th>
                <th scope="col">Groups</th>
              </tr>
            </thead>
            <tbody>
              {listed.map((one) => (
                <tr key={one.name}>
                  <td>
                    {one.name}
                    {one.taken ? " – the studio has this name already" : ""}
                  </td>
                  <td>{one.groups.join(", ") || "–"}</td>
                </tr>
              ))}
            </tbody>
          </Table>
        </Scroll>
      ) : (
        <>
          <Quiet>
            Write one name on each line, and groups after it if you like, or open a file as a
            spreadsheet saves it (CSV). First names or nicknames are enough.
          </Quiet>
          <Field value={text} onChange={setText}>
            <Label>Names</Label>
            <Box placeholder={"Tarek; Saturday group\nLiv; Saturday group"} />
          </Field>
        </>
      )}
      {problem ? <Notice>{problem.message}</Notice> : null}
      <Choices>
        {listed ? (
          <>
            <Button onPress={() => look.reset()}>Change the list</Button>
            <Button
              weight="solid"
              isDisabled={make.isPending || taken > 0}
              onPress={() => make.mutate(undefined)}
            >
              {make.isPending ? "Making slips" : "Make these pupils"}
            </Button>
          </>
        ) : (
          <>
            <FileTrigger
              acceptedFileTypes={[".csv", ".txt", "text/csv", "text/plain"]}
              onSelect={(files) => {
                void files?.[0]?.arrayBuffer().then((bytes) => setText(readable(bytes)));
              }}
            >
              <Button>Open a file</Button>
            </FileTrigger>
            <Button
              weight="solid"
              isDisabled={text.trim() === "" || look.isPending}
              onPress={() => look.mutate()}
            >
              Look at the list
            </Button>
          </>
        )}
      </Choices>
    </Dialog>
  );
}

/** The text of a file: as most save it today, or as older spreadsheets do. */
function readable(bytes: ArrayBuffer): string {
  const start = new Uint8Array(bytes.slice(0, 2));
  if (start[0] === 0xff && start[1] === 0xfe) return new TextDecoder("utf-16le").decode(bytes);
  try {
    return new TextDecoder("utf-8", { fatal: true }).decode(bytes);
  } catch {
    return new TextDecoder("windows-1252").decode(bytes);
  }
}

type SlipsProps = { studio: Studio; slips: Schemas["PupilSlip"][]; onClose: () => void };

/** Slips are told once: they are printed here, or made again one by one. */
export function Slips({ studio, slips, onClose }: SlipsProps) {
  const print = useMutation({
    mutationFn: () => {
      const printed = slips.map(({ called, name, code, pictures }) => ({
        called,
        name,
        code,
        pictures: pictures.map((one) => one.id),
      }));
      return saveFile("/api/slips.pdf", { slips: printed, heading: studio.name }, "slips.pdf");
    },
  });
  const one = slips.length === 1 ? slips[0] : undefined;
  return (
    <Dialog
      title={one ? `A slip for ${one.called}` : `${slips.length} slips`}
      isOpen
      onClose={onClose}
      wide
    >
      <Quiet>
        A slip opens its pupil’s work. It is shown only now: print it, cut, and hand it out.
      </Quiet>
      <Scroll>
        <Table aria-label="Slips">
          <thead>
            <tr>
              <th scope="col">For</th>
              <th scope="col">Name here</th>
              <th scope="col">Pictures</th>
              <th scope="col">Code</th>
            </tr>
          </thead>
          <tbody>
            {slips.map((slip) => (
              <tr key={slip.code}>
                <td>{slip.called}</td>
                <td>{slip.name}</td>
                <td>{slip.pictures.map((picture) => picture.words).join(", ")}</td>
                <td style={{ whiteSpace: "nowrap" }}>{slip.code}</td>
              </tr>
            ))}
          </tbody>
        </Table>
      </Scroll>
      {print.error ? <Notice>{print.error.message}</Notice> : null}
      <Choices>
        <Button onPress={onClose}>{print.isSuccess ? "Done" : "Close without them"}</Button>
        <Button weight="solid" isDisabled={print.isPending} onPress={() => print.mutate()}>
          {one ? "Save the slip as PDF" : "Save the slips as PDF"}
        </Button>
      </Choices>
    </Dialog>
  );
}
