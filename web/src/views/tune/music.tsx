// After a string is in tune: the music it was tuned for, as it was and as it is, and what comes next.

import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import styled from "styled-components";
import { api, said, type Schemas } from "../../api/client";
import { Button } from "../../parts/button";
import { Notice } from "../../parts/notice";
import { player } from "../../sound/player";
import { ink, phone } from "../../theme/theme";

type Piece = Schemas["MusicPiece"];
type Sounds = Piece["now"];

const GAP_S = 0.7;
const OTHER_VOICES = 2000; // what it is now sounds in voices of its own

const Room = styled.div`
  display: grid;
  align-content: center;
  gap: 1rem;
  height: 100%;
  padding: 0 4rem;
  border-top: 2px solid ${ink.water};
  background: ${ink.depth};
  ${phone} {
    padding: 0.5rem 0.9rem;
    gap: 0.6rem;
  }
`;
const Row = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 0.75rem;
  button {
    min-height: 60px;
    font-size: 1.1875rem;
    justify-content: center;
  }
  ${phone} {
    gap: 0.5rem;
    button {
      flex: 1 1 100%;
      min-height: 52px;
      font-size: 1.0625rem;
    }
  }
`;
const Which = styled.p`
  min-height: 1.3em;
  font-size: 1.75rem;
  font-weight: 700;
`;

function moved(sounds: Sounds, by_s: number): Sounds {
  return sounds.map((one) =>
    one.kind === "retune"
      ? one
      : { ...one, voice: one.voice + OTHER_VOICES, delay_s: (one.delay_s ?? 0) + by_s },
  );
}

export type AfterItProps = {
  attempt: string;
  /** Silences what still rings. */
  hush: () => void;
  next: number | null;
  nextLabel: string;
  onOn: (next: number | null) => void;
};

/** The music before and now, each piece at one press; then one more string, or enough. */
export function AfterIt({ attempt, hush, next, nextLabel, onOn }: AfterItProps) {
  const music = useQuery({
    queryKey: ["music", attempt],
    queryFn: () =>
      said(
        api.GET("/api/attempts/{attempt_id}/music", { params: { path: { attempt_id: attempt } } }),
      ),
    staleTime: Number.POSITIVE_INFINITY,
    retry: 3,
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
    hush();
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
  return (
    <Room>
      <Which role="status">{which || "Hear what it is for."}</Which>
      {music.error ? <Notice>{music.error.message}</Notice> : null}
      <Row>
        {(music.data ?? []).map((piece) => (
          <Button key={piece.id} onPress={() => (playing === piece.id ? still() : play(piece))}>
            {playing === piece.id ? "Stop" : `${piece.name}, before and now`}
          </Button>
        ))}
      </Row>
      <Row>
        {next === null ? null : (
          <Button weight="solid" onPress={() => onOn(next)}>
            One more: {nextLabel}
          </Button>
        )}
        <Button onPress={() => onOn(null)}>See how it went</Button>
      </Row>
    </Room>
  );
}
