// Leading a round with the class, on the device that everybody looks at: the code, what is asked,
// answers as they come, and the truth. No name is on this page.

import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useLocation, useNavigate, useParams } from "react-router";
import styled from "styled-components";
import { api, queries, said, type Schemas } from "../../api/client";
import { Button } from "../../parts/button";
import { Table } from "../../parts/layout";
import { Notice } from "../../parts/notice";
import { soundOf, useRoundPlayer } from "../../parts/play-round";
import { useKeys } from "../../parts/use-keys";
import { SaidBars } from "../../picture/said-bars";
import { TruthPicture } from "../../picture/truth-picture";
import { Water } from "../../picture/water";
import { type RoundScene, useRound } from "../../realtime/use-round";
import { ink, phone } from "../../theme/theme";
import { named } from "../../words/notes";
import { Buttons, Main, OnTheWall, Quiet, Scroll } from "./layout";
import { useThisStudio } from "./use-studio";

type Page = Schemas["RoundPage"];
type Move = Schemas["RoundMove"]["move"];

const Stage = styled.main`
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 1.25rem;
  align-content: start;
  padding: 1.25rem 2.5rem 2rem;
  background: ${ink.sheet};
  min-height: 100%;
  h1 {
    font-size: 2.75rem;
    line-height: 1.12;
    text-wrap: balance;
  }
  h1 + p {
    font-size: 1.5rem;
  }
  ${phone} {
    padding: 1rem;
    h1 {
      font-size: 1.625rem;
    }
    h1 + p {
      font-size: 1.125rem;
    }
  }
`;
const Top = styled.div`
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  align-items: baseline;
  gap: 0 2rem;
  font-size: 1.125rem;
  strong {
    font-size: 1.5rem;
    letter-spacing: 0.04em;
    white-space: nowrap;
  }
`;
const Basin = styled.div`
  position: relative;
  height: 11rem;
  border-block: 1px solid ${ink.line};
`;
const Dots = styled.ul`
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
  min-height: 1.75rem;
  li {
    width: 1.5rem;
    height: 1.5rem;
    border-radius: 50%;
    border: 2px solid ${ink.edge};
  }
  li[data-said="true"] {
    background: ${ink.water};
    border-color: ${ink.water};
  }
`;
const Wall = styled.div`
  display: grid;
  gap: 0.25rem;
  ${OnTheWall} {
    font-size: 5.5rem;
  }
  ${phone} {
    ${OnTheWall} {
      font-size: 2.5rem;
    }
  }
`;
const Hear = styled.ul`
  display: flex;
  flex-wrap: wrap;
  gap: 0.75rem;
`;
const Told = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 1.25rem 2.5rem;
  align-items: center;
  ${phone} {
    grid-template-columns: minmax(0, 1fr);
  }
`;

export function LeadRound() {
  const studio = useThisStudio();
  const { round = "" } = useParams();
  const path = { params: { path: { studio_id: studio.id, round_id: round } } };
  const page = useQuery({
    queryKey: ["studio", studio.id, "round", round],
    queryFn: () => said(api.GET("/api/studios/{studio_id}/rounds/{round_id}", path)),
  });
  if (page.error)
    return (
      <Main>
        <Notice>{page.error.message}</Notice>
        <Link to={`/teach/${studio.id}/rounds`}>To the rounds</Link>
      </Main>
    );
  if (!page.data) return <Stage />;
  return <Lead key={round} studio={studio.id} page={page.data} />;
}

type LeadProps = { studio: string; page: Page };

function Lead({ studio, page }: LeadProps) {
  const round = page.scene.id;
  const { scene: seen, link } = useRound(round, page.scene);
  const scene = seen ?? page.scene;
  const player = useRoundPlayer();
  const move = useMutation({
    mutationFn: ({ wanted, version }: { wanted: Move; version: number }) =>
      said(
        api.POST("/api/studios/{studio_id}/rounds/{round_id}/moves", {
          params: { path: { studio_id: studio, round_id: round } },
          body: { move: wanted, version },
        }),
      ),
    onSuccess: (told) => queries.setQueryData(["studio", studio, "round", round], told),
    onError: () => void queries.invalidateQueries({ queryKey: ["studio", studio, "round", round] }),
  });
  // the last move, and the newest scene that is known: of a reply, or told over the line
  const last = useRef<Promise<unknown>>(Promise.resolve());
  const newest = useRef(scene);
  const note = (told: RoundScene) => {
    if (told.version > newest.current.version) newest.current = told;
  };
  useEffect(() => note(scene));
  const send = (wanted: Move, version: number) => {
    last.current = move.mutateAsync({ wanted, version }).then(
      (told) => note(told.scene),
      () => undefined, // the notice says it
    );
  };
  const go = (wanted: Move) => {
    if (!move.isPending) send(wanted, scene.version);
  };
  const water = scene.truth?.water ?? scene.question?.water ?? [];
  const play = async () => {
    if (!(await player.play(() => soundOf(round), water))) return;
    await last.current; // the line may have told the question before the reply to its move came
    // the class may answer once it sounds
    if (newest.current.number === scene.number) send("play", newest.current.version);
  };
  const ask = () => {
    player.hush();
    go("ask");
  };
  if (link === "gone")
    return (
      <Stage>
        <h1>This round has been erased</h1>
        <Link to={`/teach/${studio}/rounds`}>To the rounds</Link>
      </Stage>
    );
  const props = { scene, page, studio, player, play, ask, go };
  const problem = player.problem ?? move.error?.message ?? null;
  return (
    <Stage data-round={scene.stage}>
      <Head scene={scene} code={page.code} />
      {link === "away" ? <Notice>The line is down. It comes back by itself.</Notice> : null}
      {problem ? <Notice>{problem}</Notice> : null}
      {scene.stage === "gathering" ? <Gathering {...props} /> : null}
      {scene.stage === "asked" ? <Asked key={scene.number} {...props} /> : null}
      {scene.stage === "told" ? <ToldStage key={scene.number} {...props} /> : null}
      {scene.stage === "over" ? <Over {...props} /> : null}
    </Stage>
  );
}

type StageProps = LeadProps & {
  scene: RoundScene;
  player: ReturnType<typeof useRoundPlayer>;
  play: () => Promise<void>;
  ask: () => void;
  go: (move: Move) => void;
};

function Head({ scene, code }: { scene: RoundScene; code: string | null }) {
  const isOpen = scene.stage === "asked" || scene.stage === "told";
  return (
    <Top>
      <p>
        {scene.name}
        {isOpen ? ` · ${scene.number} of ${scene.count}` : ""}
      </p>
      {isOpen && code ? (
        <p>
          {location.host}/do <strong>{code}</strong>
        </p>
      ) : null}
    </Top>
  );
}

function Gathering({ scene, page, studio, player, ask }: StageProps) {
  const hear = (number: number) =>
    void player.play(() =>
      said(
        api.GET("/api/studios/{studio_id}/rounds/{round_id}/examples/{number}", {
          params: { path: { studio_id: studio, round_id: scene.id, number } },
        }),
      ),
    );
  useKeys({
    Enter: ask,
    ...Object.fromEntries(page.examples.map((_, n) => [String(n + 1), () => hear(n)])),
  });
  return (
    <>
      <Wall>
        <h1>Open {location.host}/do and type</h1>
        <OnTheWall>{page.code}</OnTheWall>
      </Wall>
      <Dots aria-hidden="true">
        {Array.from({ length: scene.here }, (_, n) => (
          <li key={n} data-said="true" />
        ))}
      </Dots>
      <p role="status">{peopleSaid(scene.here, "here")}</p>
      {ONLY_HERE.test(location.hostname) ? (
        <Quiet>
          Only this machine knows this address. So that phones can come in, start Meldrin for the
          network and open it here by the name it has there.
        </Quiet>
      ) : null}
      <h2>First, one of each</h2>
      <Hear aria-label="One of each">
        {page.examples.map((one, n) => (
          <li key={one.words}>
            <Button hint={String(n + 1)} onPress={() => hear(n)}>
              {named(one.words)}
            </Button>
          </li>
        ))}
      </Hear>
      <Buttons>
        <Button weight="solid" size="tall" hint="Enter" onPress={ask}>
          Begin: {scene.count} to judge
        </Button>
      </Buttons>
    </>
  );
}

const ONLY_HERE = /^(localhost|127\.|\[?::1)/;

function peopleSaid(count: number, does: string): string {
  if (count === 0) return `Nobody is ${does} yet.`;
  return count === 1 ? `1 is ${does}.` : `${count} are ${does}.`;
}

function Asked({ scene, player, play, go }: StageProps) {
  const { question } = scene;
  const heard = scene.plays > 0 || scene.each_plays;
  const tell = () => {
    if (heard) go("tell");
  };
  useKeys({ " ": () => void play(), Enter: tell });
  // fetched before it is asked for, so that it sounds at once
  useQuery({
    queryKey: ["round-sound", scene.id, scene.number, "asked"],
    queryFn: () => soundOf(scene.id),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 0,
  });
  if (!question) return null;
  const all = Math.max(scene.here, scene.answered);
  return (
    <>
      <h1>{question.question}</h1>
      {question.help === "water" && question.water.length > 0 ? (
        <Basin aria-hidden="true">
          <Water log={player.log} aid="ripple" />
        </Basin>
      ) : (
        <TruthPicture
          drawn={scene.drawn}
          parts={question.parts}
          difference={null}
          isTold={false}
          at_s={player.at_s}
        />
      )}
      <Help question={question} />
      <Dots aria-hidden="true">
        {Array.from({ length: all }, (_, n) => (
          <li key={n} data-said={n < scene.answered} />
        ))}
      </Dots>
      <p role="status">
        {!heard
          ? "Play it, then they can answer."
          : all === 0
            ? "Nobody has come in yet."
            : `${scene.answered} of ${all} have answered.`}
      </p>
      <Buttons>
        <Button
          weight={heard ? "plain" : "solid"}
          size="tall"
          hint="Space"
          onPress={() => void play()}
        >
          {scene.plays > 0 ? "Play it again" : "Play it"}
        </Button>
        <Button
          weight={heard ? "solid" : "plain"}
          size="tall"
          hint="Enter"
          isDisabled={!heard}
          onPress={tell}
        >
          Show the answer
        </Button>
      </Buttons>
    </>
  );
}

/** What to listen for, while words help. */
function Help({ question }: { question: NonNullable<RoundScene["question"]> }) {
  const lines = question.answers.flatMap((answer, at) => {
    const words = question.listen_for[at];
    return words ? [{ id: answer.id, answer: answer.words, words }] : [];
  });
  if (lines.length === 0) return null;
  return (
    <dl>
      {lines.map((one) => (
        <div key={one.id}>
          <dt style={{ display: "inline", fontWeight: 650 }}>{named(one.answer)}. </dt>
          <dd style={{ display: "inline", margin: 0 }}>{one.words}</dd>
        </div>
      ))}
    </dl>
  );
}

function ToldStage({ scene, player, play, ask, go }: StageProps) {
  const { question, truth } = scene;
  const isLast = scene.number >= scene.count;
  const next = isLast ? () => go("end") : ask;
  useKeys({ " ": () => void play(), Enter: next });
  // the truth sounds with it: once, as soon as it is shown
  const [isFresh] = useState(scene.plays > 0);
  // how far above or below its line it is, where there are two sides
  const { log } = player;
  const above = truth?.above ?? null;
  useEffect(() => {
    log.show(above);
    return () => log.show(null);
  }, [log, above]);
  useEffect(() => {
    if (isFresh) void player.play(() => soundOf(scene.id), truth?.water ?? []);
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);
  if (!question || !truth) return null;
  return (
    <>
      <div role="status">
        <h1>{named(truth.says)}</h1>
        <p>{truth.said}</p>
      </div>
      <Told>
        <SaidBars question={question} truth={truth} />
        {truth.water.length > 0 ? (
          <Basin aria-hidden="true">
            <Water log={player.log} aid={above === null ? "ripple" : "level"} />
          </Basin>
        ) : (
          <TruthPicture
            drawn={scene.drawn}
            parts={truth.parts}
            difference={truth.difference}
            isTold
            at_s={player.at_s}
          />
        )}
      </Told>
      {truth.tells ? <p>{truth.tells}</p> : null}
      <Buttons>
        <Button size="tall" hint="Space" onPress={() => void play()}>
          Hear it again
        </Button>
        <Button weight="solid" size="tall" hint="Enter" onPress={next}>
          {isLast ? "See how it went" : "Next"}
        </Button>
        {isLast ? null : (
          <Button size="tall" onPress={() => go("end")}>
            End here
          </Button>
        )}
      </Buttons>
    </>
  );
}

const HELPS: Record<RoundScene["lines"][number]["help"], string> = {
  water: "with the water",
  words: "with words",
  ear: "by ear",
};

function Over({ scene, studio }: StageProps) {
  const navigate = useNavigate();
  const { state } = useLocation(); // what was chosen of this one
  const right = scene.lines.reduce((sum, one) => sum + one.right, 0);
  const of = scene.lines.reduce((sum, one) => sum + one.of, 0);
  return (
    <>
      <h1>{of > 0 ? `The class was right ${right} of ${of} times.` : "Nothing was judged."}</h1>
      {of > 0 ? (
        <Scroll>
          <Table>
            <caption className="unseen">Each question</caption>
            <thead>
              <tr>
                <th scope="col">What it was</th>
                <th scope="col">Help</th>
                <th scope="col">Right</th>
              </tr>
            </thead>
            <tbody>
              {scene.lines.map((one) => (
                <tr key={one.number}>
                  <td>{named(one.says)}</td>
                  <td>{HELPS[one.help]}</td>
                  <td>
                    {one.right} of {one.of}
                  </td>
                </tr>
              ))}
            </tbody>
          </Table>
        </Scroll>
      ) : null}
      <Quiet>
        What each judged without the water is in their own record. This page keeps no names.
      </Quiet>
      <Buttons>
        <Button
          weight="solid"
          size="tall"
          onPress={() => navigate(`/teach/${studio}/rounds`, { state })}
        >
          Another round
        </Button>
      </Buttons>
    </>
  );
}
