// Which methods serve an instrument in a tuning: only these are offered.

import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, said } from "../api/client";

type Serving = {
  /** Keeps the options whose method serves; all of them until that is known. */
  serving: <T extends { id: string }>(options: readonly T[]) => T[];
  /** The fittest method, or empty until that is known. */
  fittest: string;
};

export function useServing(instrument: string, tuning: string): Serving {
  const query = { instrument, ...(/\d/.test(tuning) ? { notes: tuning } : { tuning }) };
  const ranked = useQuery({
    queryKey: ["methods", query],
    queryFn: () => said(api.GET("/api/methods", { params: { query } })),
    retry: false,
    placeholderData: keepPreviousData,
  });
  return {
    serving: (options) =>
      options.filter(({ id }) => ranked.data?.find((one) => one.method === id)?.serves ?? true),
    fittest: ranked.data?.[0]?.method ?? "",
  };
}
