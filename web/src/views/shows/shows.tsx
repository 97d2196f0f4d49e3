// Show the class: a comparison at one press, large enough for the last row. The class hears first;
// what happened is shown when it is asked for.

import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import styled from "styled-components";
import { api, said, type Schemas } from "../../api/client";
import { Button } from "../../parts/button";
import { KeyHint } from "../../parts/key-hint";
import { Notice } from "../../parts/notice";
import { useLearner } from "../../parts/use-learner";
import { NO_SOUND, player } from "../../sound/player";
import { ink, phone, tablet } from "../../theme/theme";
import { named } from "../../words/notes";
import { Standing } from "./standing";

type Page = Schemas["ShowPage"];
type Scene = Page["scenes"][number];

const FADE_S = 0.05;

const Main = styled.main`
  display: grid;
  grid-template-columns: 17rem minmax(0, 1fr);
  ${tablet} {
    grid-template-columns: minmax(0, 1fr);
    align-content: start;
  }
`;
const List = styled.nav`
  display: grid;
  gap: 0.4rem;
  align-content: start;
  padding: 1.25rem 1.5rem;
  border-right: 1px solid ${ink.line};
  h1 {
    font-size: 1.25rem;
    margin-bottom: 0.4rem;
  }
  button[aria-current="true"] {
    background: ${ink.solid};
    color: ${ink.onSolid};
  }
  ${tablet} {
    border-right: 0;
    border-bottom: 1px solid ${ink.line};
    grid-template-columns: repeat(2, minmax(0, 1fr));
    h1 {
      grid-column: 1 / -1;
    }
  }
  ${phone} {
    padding: 1rem;
  }
`;
const Stage = styled.section`
  display: grid;
  gap: 1.5rem;
  align-content: start;
  padding: 1.75rem 2.5rem;
  background: ${ink.sheet};
  h2 {
    font-size: 3rem;
    line-height: 1.1;
    text-wrap: balance;
  }
  p {
    font-size: 1.75rem;
    text-wrap: balance;
  }
  ${phone} {
    padding: 1rem;
    h2 {
      font-size: 1.75rem;
    }
    p {
      font-size: 1.25rem;
    }
  }
`;
const Scenes = styled.div`
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(13rem, 1fr));
  gap: 0.75rem;
  button {
    min-height: clamp(6rem, 34vh, 20rem);
    justify-content: center;
    text-align: center;
    font-size: 1.75rem;
  }
  button[aria-pressed="true"] {
    border-color: ${ink.water};
    box-shadow: inset 0 -8px 0 ${ink.water};
  }
  ${phone} {
    button {
      min-height: 4rem;
      font-size: 1.1875rem;
    }
  }
`;
const Below = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 0.75rem;
`;
const Told = styled.div`
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(24rem, 100%), 1fr));
  gap: 1rem 2.5rem;
  p {
    font-size: 1.5rem;
  }
  ${phone} {
    p {
      font-size: 1.125rem;
    }
  }
`;

/** The comparisons, and the one that is shown. */
export function Shows() {
  const list = useQuery({
    queryKey: ["shows"],
    queryFn: () => said(api.GET("/api/shows")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const [chosen, setChosen] = useState<string | null>(null);
  const id = chosen ?? list.data?.[0]?.id ?? null;
  const page = useQuery({
    queryKey: ["show", id],
    queryFn: () => said(api.GET("/api/shows/{show}", { params: { path: { show: id ?? "" } } })),
    enabled: id !== null,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const error = list.error ?? page.error;
  return (
    <Main>
      <List aria-label="Comparisons">
        <h1>Show the class</h1>
        {list.data?.map((one) => (
          <Button key={one.id} aria-current={one.id === id} onPress={() => setChosen(one.id)}>
            {one.name}
          </Button>
        ))}
      </List>
      {error ? <Notice>{error.message}</Notice> : null}
      {page.data ? <Shown key={page.data.id} page={page.data} /> : <Stage />}
    </Main>
  );
}

function Shown({ page }: { page: Page }) {
  const [playing, setPlaying] = useState<number | null>(null);
  const [heard, setHeard] = useState<ReadonlySet<number>>(new Set());
  const [isTold, setTold] = useState(false);
  const [mute, setMute] = useState<string | null>(null);
  const voices = useRef<number[]>([]);
  const ends = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  useEffect(
    () => () => {
      clearTimeout(ends.current);
      player.hush();
    },
    [],
  );
  const play = (number: number) => {
    const scene = page.scenes[number];
    if (!scene) return;
    player.start().catch(() => setMute(NO_SOUND));
    const before = voices.current.map((voice) => ({
      kind: "release" as const,
      voice,
      fade_s: FADE_S,
    }));
    // each play has voices of its own, so that the one before can fade
    const { sounds, used } = renumbered(scene, Math.max(0, ...voices.current) + 1);
    player.play([...before, ...sounds], null);
    voices.current = used;
    setPlaying(number);
    setHeard((already) => new Set([...already, number]));
    clearTimeout(ends.current);
    ends.current = setTimeout(() => setPlaying(null), scene.lasts_s * 1000);
  };
  // the class hears first
  const tell = () => setTold((told) => heard.size > 0 && !told);
  const latest = useRef({ play, tell });
  useEffect(() => {
    latest.current = { play, tell };
  });
  useEffect(() => {
    const down = (event: KeyboardEvent) => {
      if (event.repeat || event.ctrlKey || event.metaKey || event.altKey) return;
      if (/^[1-9]$/.test(event.key)) latest.current.play(Number(event.key) - 1);
      else if (event.key === "w" || event.key === "W") latest.current.tell();
    };
    addEventListener("keydown", down);
    return () => removeEventListener("keydown", down);
  }, []);
  return (
    <Stage aria-label={page.name}>
      <h2>{page.name}</h2>
      <p>{page.listen_for}</p>
      {mute ? <Notice>{mute}</Notice> : null}
      <Scenes>
        {page.scenes.map((scene, number) => (
          <Button key={scene.words} aria-pressed={playing === number} onPress={() => play(number)}>
            {named(scene.words)} <KeyHint>{String(number + 1)}</KeyHint>
          </Button>
        ))}
      </Scenes>
      <Below>
        <Button isDisabled={heard.size === 0} hint="W" aria-expanded={isTold} onPress={tell}>
          {isTold ? "Hide what happened" : "What happened?"}
        </Button>
        <ToRound show={page.id} />
      </Below>
      {isTold ? (
        <Told role="status" aria-label="What happened, in cents">
          {page.scenes.map((scene) => (
            <div key={scene.words}>
              <p>
                <strong>{named(scene.words)}.</strong> {named(scene.says)}
              </p>
              {scene.strings.length > 0 ? <Standing strings={scene.strings} /> : null}
            </div>
          ))}
        </Told>
      ) : null}
    </Stage>
  );
}

/** For who has a studio: the class tells the sides apart, each on a device of its own. */
function ToRound({ show }: { show: string }) {
  const navigate = useNavigate();
  const learner = useLearner();
  const studios = useQuery({
    queryKey: ["studios"],
    queryFn: () => said(api.GET("/api/studios")),
    enabled: learner.data?.who === "learner",
  });
  const studio = studios.data?.find((one) => one.role !== "pupil")?.id;
  const begin = useMutation({
    mutationFn: (id: string) =>
      said(
        api.POST("/api/studios/{studio_id}/rounds", {
          params: { path: { studio_id: id } },
          body: { show, count: 5 },
        }),
      ),
    onSuccess: (made, id) => navigate(`/teach/${id}/rounds/${made.scene.id}`),
  });
  if (!studio) return null;
  return (
    <>
      <Button isDisabled={begin.isPending} onPress={() => begin.mutate(studio)}>
        Make it a round
      </Button>
      {begin.error ? <Notice>{begin.error.message}</Notice> : null}
    </>
  );
}

type Sounds = Scene["sounds"];

/** The sounds of a scene, by voices from a number on, and which these are. */
function renumbered(scene: Scene, from: number): { sounds: Sounds; used: number[] } {
  const names = new Map<number, number>();
  for (const one of scene.sounds)
    if (!names.has(one.voice)) names.set(one.voice, from + names.size);
  return {
    sounds: scene.sounds.map((one) => ({ ...one, voice: names.get(one.voice) ?? one.voice })),
    used: [...names.values()],
  };
}
