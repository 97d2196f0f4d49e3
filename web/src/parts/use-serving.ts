// Which methods serve an instrument in a tuning: only these are offered.

import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, said } from "../api/client";

/** Keeps the options whose method serves; all of them until that is known. */
export function useServing(
  instrument: string,
  tuning: string,
): <T extends { id: string }>(options: readonly T[]) => T[] {
  const query = { instrument, ...(/\d/.test(tuning) ? { notes: tuning } : { tuning }) };
  const ranked = useQuery({
    queryKey: ["methods", query],
    queryFn: () => said(api.GET("/api/methods", { params: { query } })),
    retry: false,
    placeholderData: keepPreviousData,
  });
  return (options) =>
    options.filter(({ id }) => ranked.data?.find((one) => one.method === id)?.serves ?? true);
}
