import { useEffect, useRef } from "react";

/** What keys do on this page, by the key as it is written on its control; letters in any case, and
 * “Shift” before an arrow. What is in `repeats` is done again while its key is held. */
export function useKeys(does: Record<string, () => void>, repeats: readonly string[] = []): void {
  const latest = useRef({ does, repeats });
  useEffect(() => {
    latest.current = { does, repeats };
  });
  useEffect(() => {
    const down = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      // a control that has the focus is pressed by Enter and the space bar itself
      const on = event.target as HTMLElement;
      if (on.closest("input:not([type=range]), textarea")) return; // letters are typed there
      const isControl = on.closest("button, a, input, select, [role=option]") !== null;
      if (isControl && (event.key === "Enter" || event.key === " ")) return;
      const key = named(event);
      const act = latest.current.does[key];
      if (!act || (event.repeat && !latest.current.repeats.includes(key))) return;
      event.preventDefault();
      act();
    };
    addEventListener("keydown", down);
    return () => removeEventListener("keydown", down);
  }, []);
}

function named({ key, shiftKey }: KeyboardEvent): string {
  if (key.length === 1) return key.toUpperCase();
  return shiftKey && key.startsWith("Arrow") ? `Shift ${key}` : key;
}
