// Several who judge at one keyboard: each has a column of keys, high above low as they lie there.

import { useMutation } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import styled from "styled-components";
import { api, said, type Schemas, type Sure } from "../../api/client";
import { laidOut } from "../../parts/answers";
import { Button } from "../../parts/button";
import { Notice } from "../../parts/notice";
import { soundOf, useRoundPlayer } from "../../parts/play-round";
import { SaidBars } from "../../picture/said-bars";
import { useRound } from "../../realtime/use-round";
import { ink } from "../../theme/theme";
import { named } from "../../words/notes";
import { Listening } from "./listening";
import { Gone, listenSaid, Page } from "./round-page";

/** By place, the keys from the top row down, as they lie under a hand. */
const KEYS = [
  ["Digit1", "KeyQ", "KeyA", "KeyZ"],
  ["Digit4", "KeyR", "KeyF", "KeyV"],
  ["Digit7", "KeyU", "KeyJ", "KeyM"],
  ["Digit0", "KeyP", "Semicolon", "Slash"],
];
const LETTERS: Record<string, string> = { Semicolon: ";", Slash: "/" };
const letter = (code: string) => LETTERS[code] ?? code.replace(/^(Key|Digit)/, "");
const ROWS = 4;

const Middle = styled.section`
  display: grid;
  align-content: start;
  gap: 1.25rem;
  padding: 1.25rem 1.5rem;
  justify-items: center;
  text-align: center;
  h2 {
    font-size: 1.75rem;
  }
`;
const Columns = styled.div`
  display: grid;
  grid-auto-flow: column;
  grid-auto-columns: minmax(0, 1fr);
  gap: 1.5rem;
  width: 100%;
  max-width: 60rem;
  section {
    display: grid;
    gap: 0.5rem;
    align-content: start;
  }
  p {
    display: flex;
    justify-content: space-between;
    padding: 0.6rem 0.9rem;
    border: 1.5px solid ${ink.edge};
    border-radius: 6px;
  }
  p[data-said="true"] {
    border-color: ${ink.text};
    font-weight: 650;
  }
`;

export function Several({ seats }: { seats: Schemas["RoundSeats"] }) {
  const { scene: seen, link } = useRound(seats.scene.id, seats.scene);
  const scene = seen ?? seats.scene;
  const [answers, setAnswers] = useState<
    Record<string, { answer: number; sure: Sure | null } | undefined>
  >({});
  const say = useMutation({
    mutationFn: (one: { number: number; place: number; answer: number; sure: Sure | null }) =>
      said(
        api.POST("/api/rounds/{round_id}/answers", {
          params: { path: { round_id: scene.id } },
          body: one,
        }),
      ),
    onMutate: (one) => {
      const key = `${one.number} ${one.place}`;
      const before = answers[key];
      setAnswers((all) => ({ ...all, [key]: { answer: one.answer, sure: one.sure } }));
      return before;
    },
    // what was not taken is not shown as said
    onError: (_, one, before) =>
      setAnswers((all) => ({ ...all, [`${one.number} ${one.place}`]: before })),
  });
  const player = useRoundPlayer();
  const rows = scene.question ? laidOut(scene.question) : [];
  const mayAnswer = scene.stage === "asked" && (scene.plays > 0 || scene.each_plays);
  const press = (code: string) => {
    const at = KEYS.findIndex((column) => column.includes(code));
    const row = (KEYS[at] ?? []).indexOf(code) - (ROWS - rows.length);
    const one = rows[row];
    if (!mayAnswer || at < 0 || at >= seats.places.length || !one) return;
    const before = answers[`${scene.number} ${at + 1}`];
    // the same key once more says that one is sure
    const sure = before?.answer === one.number ? "sure" : null;
    say.mutate({ number: scene.number, place: at + 1, answer: one.number, sure });
  };
  const latest = useRef(press);
  useEffect(() => {
    latest.current = press;
  });
  useEffect(() => {
    const down = (event: KeyboardEvent) => {
      if (event.repeat || event.ctrlKey || event.metaKey || event.altKey) return;
      latest.current(event.code);
    };
    addEventListener("keydown", down);
    return () => removeEventListener("keydown", down);
  }, []);
  if (link === "gone") return <Gone />;
  const { truth, question } = scene;
  return (
    <Page data-stand="on">
      <header>
        <h1>
          {scene.stage === "asked" || scene.stage === "told"
            ? `Round ${scene.number} of ${scene.count}`
            : scene.name}
        </h1>
        <p>{scene.studio}</p>
      </header>
      <Middle>
        {say.error ? <Notice>{say.error.message}</Notice> : null}
        {player.problem ? <Notice>{player.problem}</Notice> : null}
        {scene.stage === "gathering" ? (
          <h2>You are in, {seats.places.length} at this keyboard.</h2>
        ) : null}
        {scene.stage === "asked" && question ? (
          <>
            <p>{question.question}</p>
            <Listening scene={scene} />
            <h2 role="status">{listenSaid(scene)}</h2>
            {scene.each_plays ? (
              <Button
                weight="solid"
                size="tall"
                onPress={() => void player.play(() => soundOf(scene.id))}
              >
                Play it
              </Button>
            ) : null}
          </>
        ) : null}
        {scene.stage === "told" && truth && question ? (
          <>
            <h2 role="status">{named(truth.says)}</h2>
            <SaidBars question={question} truth={truth} />
          </>
        ) : null}
        {scene.stage === "over" ? <h2>This round is over.</h2> : null}
        {question ? (
          <Columns>
            {seats.places.map(({ place }) => {
              const mine = answers[`${scene.number} ${place}`];
              return (
                <section key={place} aria-label={`Place ${place}`}>
                  <h3>Place {place}</h3>
                  {scene.stage === "asked"
                    ? rows.map((one, row) => (
                        <p key={one.id} data-said={false}>
                          <span>{named(one.words)}</span>
                          <kbd>{letter(KEYS[place - 1]?.[ROWS - rows.length + row] ?? "")}</kbd>
                        </p>
                      ))
                    : null}
                  <p data-said={mine !== undefined} role="status">
                    {mine === undefined
                      ? "Nothing said yet"
                      : scene.stage === "told"
                        ? named(question.answers[mine.answer]?.words ?? "")
                        : mine.sure === "sure"
                          ? "Said, and sure"
                          : "Said. Again, if sure"}
                  </p>
                </section>
              );
            })}
          </Columns>
        ) : null}
      </Middle>
    </Page>
  );
}
