// Judging in a round with the class, on a phone, a tablet, or several at one keyboard.

import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import styled from "styled-components";
import { api, said, type Schemas, type Sure } from "../../api/client";
import { laidOut, numberKeys } from "../../parts/answers";
import { Button } from "../../parts/button";
import { HowSure, sureKeys } from "../../parts/how-sure";
import { Notice } from "../../parts/notice";
import { soundOf, useRoundPlayer } from "../../parts/play-round";
import { useKeys } from "../../parts/use-keys";
import { useMedia } from "../../parts/use-media";
import { SaidBars } from "../../picture/said-bars";
import { type RoundScene, useRound } from "../../realtime/use-round";
import { ink } from "../../theme/theme";
import { named } from "../../words/notes";
import { Listening } from "./listening";
import { Gone, listenSaid, Middle, Page } from "./round-page";
import { Several } from "./several";

type Seats = Schemas["RoundSeats"];
type Said = Schemas["RoundSaid"];

const Foot = styled.section`
  background: ${ink.paper};
  border-top: 1.5px solid ${ink.text};
  padding: 1rem;
  display: grid;
  gap: 0.75rem;
  & > div {
    display: grid;
    gap: 0.75rem;
    max-width: 44rem;
    width: 100%;
    margin: 0 auto;
  }
`;
const Answers = styled.div`
  display: grid;
  gap: 0.75rem;
  button {
    min-height: 4.75rem;
    justify-content: center;
    text-align: center;
    font-size: 1.25rem;
  }
  button small {
    display: block;
    font-weight: 400;
    font-size: 0.9375rem;
  }
  button[aria-pressed="true"] {
    background: ${ink.solid};
    color: ${ink.onSolid};
  }
`;

/** Its room is kept, so that no answer moves away from under a finger. */
const Sureness = styled.div`
  &[data-asks="false"] {
    visibility: hidden;
  }
`;

export function Judge() {
  const { code = "" } = useParams();
  const [places, setPlaces] = useState(1);
  const seats = useQuery({
    queryKey: ["round-seats", code, places],
    queryFn: () => said(api.POST("/api/rounds/join", { body: { code, places } })),
    staleTime: Number.POSITIVE_INFINITY,
    refetchOnReconnect: false,
    retry: false,
  });
  if (seats.error)
    return (
      <Page data-stand="on">
        <header>
          <h1>A round</h1>
        </header>
        <Middle>
          <Notice>{seats.error.message}</Notice>
          <Link to="/do">Type the code again</Link>
        </Middle>
      </Page>
    );
  if (!seats.data) return <Page data-stand="on" />;
  if (places > 1) return <Several key={places} seats={seats.data} />;
  return <Alone key={seats.data.scene.id} seats={seats.data} onSeveral={setPlaces} />;
}

type Answered = Record<number, { answer: number; sure: Sure | null } | undefined>;

/** By number of the question, what has been said. */
function known(saidBefore: readonly Said[]): Answered {
  return Object.fromEntries(
    saidBefore.map((one) => [one.number, { answer: one.answer, sure: one.sure }]),
  );
}

type AloneProps = { seats: Seats; onSeveral: (places: number) => void };

function Alone({ seats, onSeveral }: AloneProps) {
  const { scene: seen, link } = useRound(seats.scene.id, seats.scene);
  const scene = seen ?? seats.scene;
  const [answers, setAnswers] = useState<Answered>(() => known(seats.places[0]?.said ?? []));
  const player = useRoundPlayer();
  const say = useMutation({
    mutationFn: (one: { number: number; answer: number; sure: Sure | null }) =>
      said(
        api.POST("/api/rounds/{round_id}/answers", {
          params: { path: { round_id: scene.id } },
          body: one,
        }),
      ),
    onMutate: (one) => {
      const before = answers[one.number];
      setAnswers((all) => ({ ...all, [one.number]: { answer: one.answer, sure: one.sure } }));
      return before;
    },
    // what was not taken is not shown as said
    onError: (_, one, before) => setAnswers((all) => ({ ...all, [one.number]: before })),
  });
  const mine = answers[scene.number] ?? null;
  const mayAnswer = scene.stage === "asked" && (scene.plays > 0 || scene.each_plays);
  const answer = (number: number) => {
    if (mayAnswer) say.mutate({ number: scene.number, answer: number, sure: null });
  };
  const judge = (sure: Sure) => {
    if (mayAnswer && mine) say.mutate({ number: scene.number, answer: mine.answer, sure });
  };
  const question = scene.question;
  const rows = question ? laidOut(question) : [];
  const hear = () => void player.play(() => soundOf(scene.id));
  useKeys({
    ...(scene.each_plays ? { " ": hear } : {}),
    ...numberKeys(rows, mine?.answer ?? null, answer),
    ...Object.fromEntries(rows.map((one) => [one.key, () => answer(one.number)])),
    ...sureKeys(judge),
  });
  if (link === "gone") return <Gone />;
  const isOpen = scene.stage === "asked" || scene.stage === "told";
  return (
    <Page data-stand="on">
      <header>
        <h1>{isOpen ? `Round ${scene.number} of ${scene.count}` : scene.name}</h1>
        <p>{scene.studio}</p>
      </header>
      <Middle>
        {link === "away" ? <Notice>The line is down. It comes back by itself.</Notice> : null}
        {say.error ? <Notice>{say.error.message}</Notice> : null}
        {player.problem ? <Notice>{player.problem}</Notice> : null}
        {scene.stage === "gathering" ? (
          <>
            <h2>You are in. It begins soon.</h2>
            <p role="status">{scene.here === 1 ? "1 is here." : `${scene.here} are here.`}</p>
            <Together onSeveral={onSeveral} />
          </>
        ) : null}
        {scene.stage === "asked" && question ? (
          <>
            <p>{question.question}</p>
            <Listening scene={scene} />
            <h2 role="status">{listenSaid(scene)}</h2>
            {scene.each_plays ? (
              <Button weight="solid" size="tall" onPress={hear}>
                Play it
              </Button>
            ) : null}
          </>
        ) : null}
        {scene.stage === "told" ? <Truth scene={scene} mine={mine?.answer ?? null} /> : null}
        {scene.stage === "over" ? <Over code={scene.id} /> : null}
      </Middle>
      {scene.stage === "asked" && question ? (
        <Foot aria-label="Your answer">
          <div>
            <Answers>
              {rows.map((one) => (
                <Button
                  key={one.id}
                  isDisabled={!mayAnswer}
                  aria-pressed={mine?.answer === one.number}
                  onPress={() => answer(one.number)}
                >
                  {named(one.words)}
                  {mine?.answer === one.number ? " ✓" : ""}
                  {question.listen_for[one.number] ? (
                    <small>{question.listen_for[one.number]}</small>
                  ) : null}
                </Button>
              ))}
            </Answers>
            <Sureness data-asks={mine !== null}>
              <HowSure
                words="How sure are you?"
                isDisabled={!mayAnswer || mine === null}
                chosen={mine?.sure ?? null}
                onJudge={judge}
              />
            </Sureness>
          </div>
        </Foot>
      ) : null}
    </Page>
  );
}

function Truth({ scene, mine }: { scene: RoundScene; mine: number | null }) {
  const { truth, question } = scene;
  if (!truth || !question) return null;
  const words = mine === null ? null : named(question.answers[mine]?.words ?? "");
  return (
    <>
      <div role="status">
        <h2>{named(truth.says)}</h2>
        <p>
          {words === null
            ? "You said nothing this time."
            : mine === truth.right
              ? `You said “${words}”, and that is it.`
              : `You said “${words}”.`}
        </p>
      </div>
      <SaidBars question={question} truth={truth} />
      {truth.tells ? <p>{truth.tells}</p> : null}
    </>
  );
}

/** What all of it tells, fetched once it is over. */
function Over({ code }: { code: string }) {
  const seats = useQuery({
    queryKey: ["round-over", code],
    queryFn: () =>
      said(api.GET("/api/rounds/{round_id}", { params: { path: { round_id: code } } })),
  });
  return (
    <>
      {seats.data?.places.map((one) => (
        <h2 key={one.place}>
          {seats.data.places.length > 1 ? `Place ${one.place}: ` : ""}
          {one.says}
        </h2>
      ))}
      <Link to="/listen">Practise your ear</Link>
    </>
  );
}

function Together({ onSeveral }: { onSeveral: (places: number) => void }) {
  const isKeyboard = useMedia("(pointer: fine)");
  if (!isKeyboard) return null;
  return (
    <>
      <p>More of you at this keyboard?</p>
      <div style={{ display: "flex", gap: "0.5rem" }}>
        {[2, 3, 4].map((places) => (
          <Button key={places} onPress={() => onSeveral(places)}>
            {places}
          </Button>
        ))}
      </div>
    </>
  );
}
