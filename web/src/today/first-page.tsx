import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import styled from "styled-components";
import { api, said } from "../api/client";
import { Button } from "../parts/button";
import { Onward } from "../parts/layout";
import { Notice } from "../parts/notice";
import { player } from "../sound/player";
import { ink, phone, tablet } from "../theme/theme";
import { type Start, useStart } from "../realtime/start";
import { dayAndTime } from "../words/formats";
import { WaterLog } from "../picture/water-log";
import { RemarksForYou } from "./remarks-for-you";
import { SetForYou } from "./set-for-you";
import { NextSteps } from "./next-steps";
import { Today } from "./today";
import { useTryStep } from "./use-steps";
import { useToday } from "./use-today";
import { HeardInstrument, Wobbles, WobbleWater } from "./first-sounds";

const FIRST = "guitar";
const TWO = [4, 5]; // D and A, which are played first
// A few ways in, each on another of the school's instruments.
const WAYS_IN: readonly { words: string; about: string; start: Start }[] = [
  {
    words: "The school guitar, all six strings",
    about: "By fretted unisons, from the fork",
    start: { exercise: {} },
  },
  {
    words: "Fifths on a viola",
    about: "Two strings under one bow, until they are still",
    start: { exercise: { instrument: "viola", method: "fifths", start: "hair", aid: "ripple" } },
  },
  {
    words: "Harmonics on the double bass",
    about: "The stubborn low strings, by their partials",
    start: { exercise: { instrument: "double-bass", method: "harmonics", start: "hair" } },
  },
  {
    words: "A tuner that is set wrong",
    about: "Find it out before it tunes the mandolin",
    start: {
      exercise: { instrument: "mandolin", method: "tuner", start: "reference", aid: "tuner" },
    },
  },
  {
    words: "Free play on a cello",
    about: "No plan, no points: play, turn, listen",
    start: { exercise: { instrument: "cello", method: "free", start: "month", aid: "level" } },
  },
];

const Main = styled.main`
  display: grid;
  align-content: start;
  min-width: 0;
`;
/** All that a newcomer sees at first: what to press, and the water. */
const Opening = styled.div`
  display: flex;
  flex-direction: column;
  min-height: calc(100svh - 58px);
  background: ${ink.sheet};
`;
const First = styled.section`
  display: grid;
  grid-template-columns: minmax(0, 5fr) minmax(0, 6fr);
  gap: 1.5rem 3rem;
  align-items: center;
  padding: 2.25rem 1.5rem 1rem;
  flex: 1;
  width: 100%;
  max-width: 84rem;
  margin: 0 auto;
  --under: ${ink.sheet};
  ${tablet} {
    grid-template-columns: minmax(0, 1fr);
    align-content: center;
  }
  ${phone} {
    padding: 1.25rem 1rem 0.5rem;
  }
`;
const Title = styled.h1`
  font-size: 3rem;
  max-width: 28rem;
  ${phone} {
    font-size: 1.9rem;
  }
`;
const Say = styled.div`
  display: grid;
  gap: 0.9rem;
  justify-items: start;
  p {
    font-size: 1.1875rem;
    max-width: 28rem;
  }
  p.note {
    color: ${ink.quiet};
    font-size: 1rem;
  }
  button {
    font-size: 1.1875rem;
    padding: 0.5rem 1.4rem;
  }
`;
const Touch = styled.div`
  display: grid;
  gap: 0.4rem;
  min-height: 17.5rem;
  align-content: center;
  p {
    color: ${ink.quiet};
  }
  ${phone} {
    min-height: 15rem;
  }
`;
const Rest = styled.section`
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr) minmax(0, 1.35fr);
  border-top: 1.5px solid ${ink.line};
  .foot {
    grid-column: 1 / -1;
    font-size: 0.9375rem;
    padding: 0 1.5rem 1rem;
  }
  ${tablet} {
    grid-template-columns: minmax(0, 1fr);
  }
`;
const Below = styled(Rest)`
  grid-template-columns: minmax(0, 1.35fr) minmax(0, 1fr);
  border-top: 0;
  ${tablet} {
    grid-template-columns: minmax(0, 1fr);
  }
`;
const Told = styled.div`
  display: grid;
  gap: 0.75rem;
  padding: 1rem 1.5rem;
  background: ${ink.sheet};
  &:not(:has(section)) {
    display: none;
  }
  ${phone} {
    padding: 0.75rem 1rem;
  }
`;
const Column = styled.div`
  display: grid;
  gap: 0.75rem;
  align-content: start;
  padding: 1.4rem 1.5rem;
  & + & {
    border-left: 1px solid ${ink.line};
  }
  ${tablet} {
    & + & {
      border-left: 0;
      border-top: 1px solid ${ink.line};
    }
  }
`;
const Rows = styled.ul`
  li {
    display: flex;
    align-items: center;
    justify-content: space-between;
    gap: 1rem;
    padding: 0.6rem 0;
    border-top: 1px solid ${ink.line};
  }
  li:last-child {
    border-bottom: 1px solid ${ink.line};
  }
  p {
    color: ${ink.quiet};
  }
`;
const Way = styled(Link)`
  display: flex;
  align-items: center;
  justify-self: start;
  min-height: 44px;
  padding: 0 1rem;
  border: 1.5px solid ${ink.edge};
  border-radius: 6px;
  background: ${ink.sheet};
  font-weight: 600;
  text-decoration: none;
  margin-bottom: 0.75rem;
`;
const Quiet = styled.p`
  color: ${ink.quiet};
`;

/** Where everything starts: the day's plan, or for a newcomer one press to the first sound. */
export function FirstPage() {
  const [log] = useState(() => new WaterLog());
  const today = useToday();
  // nothing jumps away from under a press: the page stands when it is known who comes
  if (today.isPending) return <Main />;
  const { aim, plan, goal, path } = today.data ?? {};
  if (aim && plan)
    return (
      <Main>
        <Told>
          <SetForYou />
          <RemarksForYou />
        </Told>
        <Today aim={aim} plan={plan} goal={goal ?? ""} />
        <Below>
          <Column>{path ? <NextSteps path={path} /> : null}</Column>
          <Column>
            <NotFinished />
            <h2>How you get on</h2>
            <Onward to="/review">Review: attempts, replays, progress</Onward>
            <Onward to="/show">Show the class</Onward>
          </Column>
          <Footer />
        </Below>
      </Main>
    );
  return (
    <Main>
      <Opening>
        <Told>
          <SetForYou />
          <RemarksForYou />
        </Told>
        <Hero />
        <WobbleWater log={log} />
      </Opening>
      <Rest>
        <Column>
          <h2>First, what is a wobble?</h2>
          <Wobbles log={log} />
        </Column>
        <Column>
          <h2>Your own instrument</h2>
          <Quiet>Choose it, check it, and get a plan to print for the music stand.</Quiet>
          <Way to="/instruments/before">Before you start</Way>
          <Way to="/instruments/method">Prepare an instrument</Way>
          <Quiet>With a class: comparisons at one press, to hear together.</Quiet>
          <Way to="/show">Show the class</Way>
          <Way to="/teach">Teach a class</Way>
        </Column>
        <Column>
          <NotFinished />
          <WaysIn />
        </Column>
        <Footer />
      </Rest>
    </Main>
  );
}

function Hero() {
  const first = useTryStep();
  return (
    <First>
      <Say>
        <Title>Bring a string to rest, by ear.</Title>
        <p>Two strings that nearly agree wobble. Turn one until the wobble stands still.</p>
        <Button
          weight="solid"
          size="tall"
          isDisabled={first.isPending}
          onPress={() => first.mutate("first")}
        >
          Play two strings
        </Button>
        <p className="note">Starts quiet. With headphones on, keep the level low first.</p>
        {first.error ? <Notice>{first.error.message}</Notice> : null}
      </Say>
      <Touch>
        <HeardInstrument key={FIRST} instrument={FIRST} only={TWO} />
      </Touch>
    </First>
  );
}

/** What was left before its end; nothing where nothing was. */
function NotFinished() {
  const navigate = useNavigate();
  const attempts = useQuery({
    queryKey: ["attempts", "open"],
    queryFn: () =>
      said(
        api.GET("/api/attempts", {
          params: { query: { practice: "bench", state: "open", most: 3 } },
        }),
      ),
  });
  const open = attempts.data?.attempts ?? [];
  if (attempts.error) return <Notice>{attempts.error.message}</Notice>;
  if (open.length === 0) return null;
  return (
    <>
      <h2>Not finished yet</h2>
      <Rows>
        {open.map((attempt) => (
          <li key={attempt.id}>
            <div>
              <strong>{attempt.name}</strong>
              <p>{dayAndTime(attempt.created_at)}</p>
            </div>
            <Button
              aria-label={`Resume ${attempt.name}`}
              onPress={() => {
                void player.start().catch(() => undefined);
                navigate(`/tune/${attempt.id}`);
              }}
            >
              Resume
            </Button>
          </li>
        ))}
      </Rows>
    </>
  );
}

function WaysIn() {
  const start = useStart();
  return (
    <>
      <h2>Other ways in</h2>
      <Rows>
        {WAYS_IN.map(({ words, about, start: way }) => (
          <li key={words}>
            <div>
              <strong>{words}</strong>
              <p>{about}</p>
            </div>
            <Button
              aria-label={`Start: ${words}`}
              isDisabled={start.isPending}
              onPress={() => start.mutate(way)}
            >
              Start
            </Button>
          </li>
        ))}
      </Rows>
      {start.error ? <Notice>{start.error.message}</Notice> : null}
    </>
  );
}

function Footer() {
  return (
    <Quiet className="foot">
      <Link to="/account">My work: keep it, or open it here</Link>{" "}
      <Link to="/join">Join a studio by a code</Link>{" "}
      <Link to="/do">An exercise by the code on the wall</Link>{" "}
      <Link to="/show">Show the class</Link> <Link to="/parents">For parents</Link>{" "}
      <Link to="/words">Words, and what they mean</Link>{" "}
      <Link to="/licences">Licences of what this page is built of</Link>
    </Quiet>
  );
}
