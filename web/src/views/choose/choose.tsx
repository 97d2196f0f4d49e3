// What will you tune? An instrument, three ways to begin, and all else behind a line.

import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import styled from "styled-components";
import { api, type Exercise, said } from "../../api/client";
import { Button } from "../../parts/button";
import { Fold } from "../../parts/fold";
import { Onward } from "../../parts/layout";
import { Notice } from "../../parts/notice";
import { useLearner } from "../../parts/use-learner";
import { storedAid, useStart } from "../../realtime/start";
import { ink, phone, tablet } from "../../theme/theme";
import { useToday } from "../../today/use-today";
import { naming } from "../../words/notes";
import { asked } from "./asked";
import { differs } from "./differs";
import { Instruments } from "./instruments";
import { MoreChoices } from "./more-choices";

const Main = styled.main`
  display: grid;
  gap: 1.75rem;
  padding: 1.5rem 1.5rem 2rem;
  align-content: start;
  width: 100%;
  max-width: 82rem;
  margin: 0 auto;
  h1 {
    font-size: 2.25rem;
  }
  ${phone} {
    gap: 1.25rem;
    padding: 1rem 1rem 2rem;
    h1 {
      font-size: 1.75rem;
    }
  }
`;
const Ways = styled.div`
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 1.5rem;
  section {
    display: grid;
    grid-template-rows: auto 1fr auto;
    gap: 0.4rem;
    justify-items: start;
    border-top: 3px solid ${ink.text};
    padding-top: 0.8rem;
  }
  h2 {
    font-size: 1.375rem;
  }
  p {
    color: ${ink.quiet};
    font-size: 1.0625rem;
  }
  button {
    margin-top: 0.5rem;
    min-width: 7rem;
    justify-content: center;
  }
  ${tablet} {
    gap: 1rem;
  }
  ${phone} {
    grid-template-columns: minmax(0, 1fr);
  }
`;
/** On a phone the bar has no room for Listen where Teach stands in it. */
const ToListen = styled(Onward)`
  display: none;
  ${phone} {
    display: inline-flex;
  }
`;
const Head = styled.span`
  font-size: 1.0625rem;
  span {
    color: ${ink.quiet};
  }
`;

/** Choose what to practise on the bench; what was tuned last comes first. */
export function Choose() {
  const today = useToday();
  if (today.isPending)
    return (
      <Main>
        <h1>What will you tune?</h1>
      </Main>
    );
  return <Choices last={today.data?.aim?.instrument} />;
}

function Choices({ last }: { last: string | undefined }) {
  const [search] = useSearchParams();
  const learner = useLearner();
  const [exercise, set] = useState(() => asked(search, last));
  const [aid, setAid] = useState(storedAid);
  const [seed] = useState(() => (search.has("seed") ? Number(search.get("seed")) : null));
  const change = (some: Partial<Exercise>) => set((before) => ({ ...before, ...some }));
  const { instrument = "guitar", tuning = "standard" } = exercise;
  const start = useStart();
  const instruments = useQuery({
    queryKey: ["instruments"],
    queryFn: () => said(api.GET("/api/instruments")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const ways = useQuery({
    queryKey: ["ways", instrument, tuning],
    queryFn: () =>
      said(api.GET("/api/ways", { params: { query: { instrument, tuning, naming: naming() } } })),
    placeholderData: keepPreviousData,
    retry: false,
  });
  const made = instruments.data?.find((one) => one.id === instrument);
  const error = instruments.error ?? ways.error ?? start.error;
  // All of it comes at once: what can be pressed does not move when the rest arrives.
  if (!error && !(instruments.data && ways.data))
    return (
      <Main>
        <h1>What will you tune?</h1>
      </Main>
    );
  return (
    <Main>
      <h1>What will you tune?</h1>
      <Instruments
        all={instruments.data ?? []}
        value={instrument}
        onPick={(id) => {
          localStorage.setItem("meldrin:instrument", id);
          change({
            instrument: id,
            tuning: "standard",
            came_from: "",
            out_string: 0,
            first_string: 0,
            source: "",
          });
        }}
      />
      {error ? <Notice>{error.message}</Notice> : null}
      <Ways>
        {(ways.data ?? []).map((way) => (
          <section key={way.id} aria-label={way.name}>
            <h2>{way.name}</h2>
            <p>{way.about}</p>
            <Button
              weight="solid"
              size="tall"
              aria-label={`Start: ${way.name}`}
              isDisabled={start.isPending}
              onPress={() => start.mutate({ exercise: way.exercise })}
            >
              Start
            </Button>
          </section>
        ))}
      </Ways>
      <Fold
        isOpenAtFirst={search.size > 0}
        head={
          <Head>
            <strong>More choices</strong> <span>{differs({ ...exercise, aid }, made)}</span>
          </Head>
        }
      >
        <MoreChoices
          exercise={exercise}
          change={change}
          aid={aid}
          setAid={setAid}
          seed={seed}
          made={made}
        />
      </Fold>
      {learner.data?.teaches ? <ToListen to="/listen">Drills for the ear: Listen</ToListen> : null}
    </Main>
  );
}
