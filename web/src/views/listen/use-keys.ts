import { useEffect, useRef } from "react";

/** What keys do on this page, by the key as it is written on its control; letters in any case. */
export function useKeys(does: Record<string, () => void>): void {
  const latest = useRef(does);
  useEffect(() => {
    latest.current = does;
  });
  useEffect(() => {
    const down = (event: KeyboardEvent) => {
      if (event.repeat || event.ctrlKey || event.metaKey || event.altKey) return;
      // a control that has the focus is pressed by Enter and the space bar itself
      const on = event.target as HTMLElement;
      const isControl = on.closest("button, a, input, select, [role=option]") !== null;
      if (isControl && (event.key === "Enter" || event.key === " ")) return;
      const act = latest.current[event.key.length === 1 ? event.key.toUpperCase() : event.key];
      if (!act) return;
      event.preventDefault();
      act();
    };
    addEventListener("keydown", down);
    return () => removeEventListener("keydown", down);
  }, []);
}
