import { useState } from "react";
import { Button } from "./button";

/** Copies an address; where that is not allowed, shows it to be copied by hand. */
export function CopyLink({ words, link }: { words: string; link: () => string }) {
  const [shown, show] = useState<{ link: string; isCopied: boolean } | null>(null);
  const copy = async () => {
    const address = link();
    try {
      await navigator.clipboard.writeText(address);
      show({ link: address, isCopied: true });
    } catch {
      show({ link: address, isCopied: false });
    }
  };
  return (
    <>
      <Button onPress={() => void copy()}>{words}</Button>
      <span role="status">
        {shown === null
          ? ""
          : shown.isCopied
            ? "Copied. Whoever opens it starts the same exercise."
            : shown.link}
      </span>
    </>
  );
}
