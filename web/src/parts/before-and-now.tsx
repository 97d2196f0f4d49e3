// The music that strings were tuned for, as they were and as they are now, each piece at one press.

import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useEffect, useRef, useState } from "react";
import { api, said, type Schemas } from "../api/client";
import { player } from "../sound/player";
import { Button } from "./button";

type Piece = Schemas["MusicPiece"];
type Sounds = Piece["now"];

const GAP_S = 0.7;
const OTHER_VOICES = 2000; // what it is now sounds in voices of its own

function moved(sounds: Sounds, by_s: number): Sounds {
  return sounds.map((one) =>
    one.kind === "retune"
      ? one
      : { ...one, voice: one.voice + OTHER_VOICES, delay_s: (one.delay_s ?? 0) + by_s },
  );
}

type BeforeAndNowProps = {
  attempt: string;
  /** Silences what still rings. */
  hush?: () => void;
  /** Names the pieces alone: that it is before and now stands beside them. */
  isShort?: boolean;
  /** Lays out what sounds now (in words, or empty) and what can be pressed; nothing where there is no
   * music yet. */
  children: (which: string, presses: ReactNode) => ReactNode;
};

export function BeforeAndNow({ attempt, hush, isShort = false, children }: BeforeAndNowProps) {
  const music = useQuery({
    queryKey: ["music", attempt],
    queryFn: () =>
      said(
        api.GET("/api/attempts/{attempt_id}/music", { params: { path: { attempt_id: attempt } } }),
      ),
    staleTime: Number.POSITIVE_INFINITY,
    retry: hush ? 3 : false, // on the bench it is there a moment later
  });
  const [which, setWhich] = useState("");
  const [playing, setPlaying] = useState<Piece["id"] | null>(null);
  const timers = useRef<ReturnType<typeof setTimeout>[]>([]);
  const still = () => {
    for (const one of timers.current) clearTimeout(one);
    timers.current = [];
    player.hush();
    setWhich("");
    setPlaying(null);
  };
  useEffect(
    () => () => {
      for (const one of timers.current) clearTimeout(one);
      player.hush();
    },
    [],
  );
  const play = (piece: Piece) => {
    still();
    hush?.();
    const again_s = piece.lasts_s + GAP_S;
    void player.start().catch(() => undefined);
    player.play([...piece.was, ...moved(piece.now, again_s)], null);
    setPlaying(piece.id);
    setWhich("As it was");
    timers.current = [
      setTimeout(() => setWhich("As it is now"), 1000 * again_s),
      setTimeout(still, 1000 * (again_s + piece.lasts_s)),
    ];
  };
  return children(
    which,
    (music.data ?? []).map((piece) => (
      <Button
        key={piece.id}
        aria-label={playing === piece.id ? "Stop" : `${piece.name}, before and now`}
        onPress={() => (playing === piece.id ? still() : play(piece))}
      >
        {playing === piece.id ? "Stop" : isShort ? piece.name : `${piece.name}, before and now`}
      </Button>
    )),
  );
}
