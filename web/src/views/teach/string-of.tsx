// A string of an instrument of the catalogue, chosen from two lists.

import { useQuery } from "@tanstack/react-query";
import { api, said } from "../../api/client";
import { Pick } from "../../parts/pick";
import { capital } from "../../words/formats";
import { named } from "../../words/notes";

export type StringOf = { instrument: string; string: number };

export function StringOfPicks({
  value,
  onPick,
}: {
  value: StringOf;
  onPick: (value: StringOf) => void;
}) {
  const instruments = useQuery({
    queryKey: ["instruments"],
    queryFn: () => said(api.GET("/api/instruments")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const strings = instruments.data?.find((one) => one.id === value.instrument)?.strings ?? [];
  return (
    <>
      <Pick
        label="Instrument"
        value={value.instrument}
        options={(instruments.data ?? [])
          .filter((one) => !one.own)
          .map((one) => ({ id: one.id, words: one.name }))}
        onPick={(instrument) => onPick({ instrument, string: 1 })}
      />
      <Pick
        label="String"
        value={String(value.string)}
        options={strings.map((one) => ({
          id: String(one.number),
          words: capital(named(one.label)),
        }))}
        onPick={(id) => onPick({ ...value, string: Number(id) })}
      />
    </>
  );
}
