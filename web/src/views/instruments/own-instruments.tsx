import { useMutation } from "@tanstack/react-query";
import { FileTrigger } from "react-aria-components";
import styled from "styled-components";
import { api, type Instrument, queries, said } from "../../api/client";
import { Button } from "../../parts/button";
import { Dialog } from "../../parts/dialog";
import { Choices } from "../../parts/layout";
import { Notice } from "../../parts/notice";
import { ink } from "../../theme/theme";

const Rows = styled.ul`
  li {
    display: flex;
    align-items: center;
    justify-content: space-between;
    gap: 1rem;
    padding: 0.3rem 0;
    border-top: 1px solid ${ink.line};
  }
`;

export type OwnInstrumentsProps = {
  catalogue: Instrument[];
  instrument: Instrument;
  isOpen: boolean;
  onClose: () => void;
  onBrought: (id: string) => void;
};

/** Instruments of one's own: brought in from a file, and removed again. */
export function OwnInstruments(props: OwnInstrumentsProps) {
  const { catalogue, instrument, isOpen, onClose, onBrought } = props;
  const fresh = () => queries.invalidateQueries({ queryKey: ["instruments"] });
  const bring = useMutation({
    mutationFn: async (file: File) => {
      const body = await file.text();
      const headers = { "content-type": "text/plain" };
      return said(api.POST("/api/instruments", { body, bodySerializer: (text) => text, headers }));
    },
    onSuccess: async (made) => {
      await fresh();
      onBrought(made.id);
    },
  });
  const remove = useMutation({
    mutationFn: (id: string) =>
      said(
        api.DELETE("/api/instruments/{instrument_id}", { params: { path: { instrument_id: id } } }),
      ),
    onSuccess: fresh,
  });
  const error = bring.error ?? remove.error;
  const own = catalogue.filter((one) => one.own);
  return (
    <Dialog title="An instrument of your own" isOpen={isOpen} onClose={onClose}>
      <p>
        A file tells what its strings are made of, how long they are and how they are tuned. Save
        one as a pattern, change it, and bring it in.
      </p>
      {own.length > 0 ? (
        <Rows aria-label="Your instruments">
          {own.map((one) => (
            <li key={one.id}>
              <strong>{one.name}</strong>
              <Button aria-label={`Remove ${one.name}`} onPress={() => remove.mutate(one.id)}>
                Remove
              </Button>
            </li>
          ))}
        </Rows>
      ) : null}
      {error ? <Notice>{error.message}</Notice> : null}
      <Choices>
        <Button onPress={onClose}>Close</Button>
        <a className="pattern" href={`/api/instruments/${instrument.id}/instrument.toml`} download>
          Save “{instrument.name}” as a pattern
        </a>
        <FileTrigger
          acceptedFileTypes={[".toml"]}
          onSelect={(files) => {
            const file = files?.[0];
            if (file) bring.mutate(file);
          }}
        >
          <Button weight="solid" isDisabled={bring.isPending}>
            Bring in a file
          </Button>
        </FileTrigger>
      </Choices>
    </Dialog>
  );
}
