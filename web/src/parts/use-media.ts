import { useSyncExternalStore } from "react";

/** Whether a media query holds, as it changes. */
export function useMedia(query: string): boolean {
  return useSyncExternalStore(
    (changed) => {
      const media = matchMedia(query);
      media.addEventListener("change", changed);
      return () => media.removeEventListener("change", changed);
    },
    () => matchMedia(query).matches,
  );
}
