// The studio that is looked at, and changes to it.

import { useMutation, useQuery } from "@tanstack/react-query";
import { useOutletContext } from "react-router";
import { api, queries, said, type Schemas } from "../../api/client";

export type Studio = Schemas["StudioPage"];
export type Member = Schemas["StudioMember"];

export function useStudios() {
  return useQuery({ queryKey: ["studios"], queryFn: () => said(api.GET("/api/studios")) });
}

export function useStudio(id: string) {
  return useQuery({
    queryKey: ["studio", id],
    queryFn: () =>
      said(api.GET("/api/studios/{studio_id}", { params: { path: { studio_id: id } } })),
  });
}

/** The studio whose pages these are. */
export const useThisStudio = () => useOutletContext<Studio>();

/** Something that changes a studio; what is shown of it is fetched again. */
export function useChange<Wanted, Made>(
  change: (wanted: Wanted) => Promise<Made>,
  onDone?: (made: Made) => void,
) {
  return useMutation({
    mutationFn: change,
    onSuccess: async (made) => {
      onDone?.(made);
      await Promise.all([
        queries.invalidateQueries({ queryKey: ["studio"] }),
        queries.invalidateQueries({ queryKey: ["studios"] }),
      ]);
    },
  });
}

/** Let the browser keep a file that the server has made of what was sent. */
export async function saveFile(path: string, body: unknown, name: string): Promise<void> {
  const reply = await fetch(path, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify(body),
  });
  if (!reply.ok) throw new Error("The file could not be made. Try again.");
  const link = document.createElement("a");
  link.href = URL.createObjectURL(await reply.blob());
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 60_000);
}
