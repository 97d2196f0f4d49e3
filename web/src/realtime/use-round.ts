// How a round with a class stands, as the server tells it: this line comes back by itself.

import { useEffect, useState } from "react";
import type { Schemas } from "../api/client";

export type RoundScene = Schemas["RoundScene"];

/** live; away: the line is down; gone: the round has been erased, or is another's. */
export type RoundLink = "joining" | "live" | "away" | "gone";

const FIRST_RETRY_MS = 300;
const LAST_RETRY_MS = 4000;
const GONE = 4404;

/** How a round stands. What a reply has told is given as `told`; the newest of both counts. */
export function useRound(id: string | null, told: RoundScene | null) {
  const [heard, setHeard] = useState<RoundScene | null>(null);
  const [link, setLink] = useState<RoundLink>("joining");
  useEffect(() => {
    if (id === null) return undefined;
    let socket: WebSocket | null = null;
    let retry: ReturnType<typeof setTimeout> | undefined;
    let waitMs = FIRST_RETRY_MS;
    let isOver = false;
    const open = () => {
      const scheme = location.protocol === "https:" ? "wss" : "ws";
      socket = new WebSocket(`${scheme}://${location.host}/api/rounds/${id}/line`);
      socket.onmessage = ({ data }: MessageEvent<string>) => {
        const message = JSON.parse(data) as RoundScene | { kind: "refused" };
        if ("kind" in message) return; // it closes, and tries again
        waitMs = FIRST_RETRY_MS;
        setHeard(message);
        setLink("live");
      };
      socket.onclose = ({ code }) => {
        if (isOver) return;
        if (code === GONE) {
          setLink("gone");
          return;
        }
        setLink("away");
        retry = setTimeout(open, waitMs * (0.75 + 0.5 * Math.random()));
        waitMs = Math.min(LAST_RETRY_MS, 2 * waitMs);
      };
    };
    open();
    return () => {
      isOver = true;
      clearTimeout(retry);
      socket?.close();
    };
  }, [id]);
  const isOlder = heard !== null && told !== null && heard.version < told.version;
  return { scene: heard?.id === id && !isOlder ? heard : told, link };
}
