import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import styled from "styled-components";
import { api, said } from "../api/client";
import { Button } from "../parts/button";
import { Dialog } from "../parts/dialog";
import { Entry } from "../parts/entry";
import { boxed, Choices } from "../parts/layout";
import { Notice } from "../parts/notice";
import { Pick } from "../parts/pick";
import { useServing } from "../parts/use-serving";
import { ink } from "../theme/theme";
import { methodOptions } from "../words/names";
import type { Aim } from "./use-today";

const Day = styled.label`
  display: grid;
  gap: 0.2rem;
  font-size: 0.9375rem;
  color: ${ink.quiet};
  input {
    ${boxed}
    font-weight: 600;
    font-size: 1rem;
  }
`;
const File = styled.a`
  align-self: center;
  margin-right: auto;
`;

type Props = { aim: Aim; error: Error | null; onClose: () => void; onSet: (aim: Aim) => void };

/** What is practised for: an instrument, a method, and perhaps a day to be ready on. */
export function AimDialog({ aim, error, onClose, onSet }: Props) {
  const [wanted, setWanted] = useState(aim);
  const instruments = useQuery({
    queryKey: ["instruments"],
    queryFn: () => said(api.GET("/api/instruments")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const { instrument = "viola" } = wanted;
  const { serving, fittest } = useServing(instrument, wanted.tuning ?? "standard");
  const method = wanted.method || fittest; // on another instrument, until one is chosen
  return (
    <Dialog title="What you practise for" isOpen onClose={onClose}>
      <Pick
        label="Instrument"
        value={wanted.instrument ?? ""}
        options={(instruments.data ?? []).map((one) => ({ id: one.id, words: one.name }))}
        onPick={(instrument) =>
          setWanted({ ...wanted, instrument, tuning: "standard", method: "" })
        }
      />
      <Pick
        label="Method"
        value={method}
        options={serving(methodOptions()).map(({ id, words }) => ({ id, words }))}
        onPick={(method) => setWanted({ ...wanted, method })}
      />
      <Day>
        A concert, if there is one
        <input
          type="date"
          value={wanted.concert ?? ""}
          onChange={(event) => setWanted({ ...wanted, concert: event.target.value || null })}
        />
      </Day>
      {wanted.concert ? (
        <Entry
          label="What it is called"
          value={wanted.concert_name ?? ""}
          placeholder="Concert"
          most={60}
          onEnter={(concert_name) => setWanted({ ...wanted, concert_name })}
        />
      ) : null}
      {error ? <Notice>{error.message}</Notice> : null}
      <Choices>
        <File href="/api/today/calendar.ics" download>
          Put it in a calendar
        </File>
        <Button onPress={onClose}>Leave it</Button>
        <Button weight="solid" onPress={() => onSet({ ...wanted, method })}>
          Use this
        </Button>
      </Choices>
    </Dialog>
  );
}
