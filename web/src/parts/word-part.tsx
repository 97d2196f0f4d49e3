// One word of the glossary: its sentence, and its sound or its picture.

import { useEffect, useState } from "react";
import styled from "styled-components";
import { api, queries, said } from "../api/client";
import { NO_SOUND, player } from "../sound/player";
import { ink } from "../theme/theme";
import { capital } from "../words/formats";
import type { Word } from "../words/terms";
import { Button } from "./button";
import { Notice } from "./notice";
import { WordPicture } from "./word-picture";

const Part = styled.div`
  display: grid;
  gap: 0.5rem;
  justify-items: start;
  h2 {
    font-size: 1.125rem;
  }
  svg {
    width: 100%;
    max-width: 20rem;
    color: ${ink.text};
  }
`;
const FADE_S = 0.05;
let sounding: number[] = [];

/** Play what a word sounds like; what an earlier one left ringing fades. */
async function hear(word: string): Promise<void> {
  const { sounds } = await queries.fetchQuery({
    queryKey: ["word", word],
    queryFn: () => said(api.GET("/api/words/{word}", { params: { path: { word } } })),
    staleTime: Number.POSITIVE_INFINITY,
  });
  player.play(
    [...sounding.map((voice) => ({ kind: "release" as const, voice, fade_s: FADE_S })), ...sounds],
    null,
  );
  sounding = sounds.flatMap((one) => (one.kind === "start" ? [one.voice] : []));
}

export function WordPart({ word }: { word: Word }) {
  const [wrong, setWrong] = useState<string | null>(null);
  // What sounds here does not go on elsewhere.
  useEffect(
    () => () => {
      if (sounding.length === 0) return;
      player.play(
        sounding.map((voice) => ({ kind: "release" as const, voice, fade_s: FADE_S })),
        null,
      );
      sounding = [];
    },
    [],
  );
  return (
    <Part id={word.id}>
      <h2>{capital(word.words[0] ?? word.id)}</h2>
      <p>{word.says}</p>
      {word.see ? (
        <WordPicture see={word.see} />
      ) : (
        <Button
          onPress={() => {
            setWrong(null);
            player.start().catch(() => setWrong(NO_SOUND));
            hear(word.id).catch((error: Error) => setWrong(error.message));
          }}
        >
          Hear it
        </Button>
      )}
      {wrong ? <Notice>{wrong}</Notice> : null}
    </Part>
  );
}
