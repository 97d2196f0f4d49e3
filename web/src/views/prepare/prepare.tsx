import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";
import styled from "styled-components";
import { api, said } from "../../api/client";
import { Button } from "../../parts/button";
import { Notice } from "../../parts/notice";
import { player } from "../../sound/player";
import { ink, phone } from "../../theme/theme";
import { type Start, useStart } from "../../realtime/start";
import { dayAndTime } from "../../words/formats";
import { Calming } from "./calming";

// A few ways in, each on another of the school's instruments.
const WAYS_IN: readonly { words: string; about: string; start: Start }[] = [
  {
    words: "The school guitar, after a month",
    about: "By fretted unisons, from the fork",
    start: { exercise: { instrument: "guitar", method: "unison", start: "month", aid: "ripple" } },
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
  grid-template-rows: auto 1fr;
  min-width: 0;
`;
const First = styled.section`
  position: relative;
  display: grid;
  gap: 1rem;
  align-content: start;
  padding: 2.5rem 1.5rem 10.75rem;
  background: ${ink.sheet};
  border-bottom: 1.5px solid ${ink.line};
  overflow: hidden;
  & > * {
    position: relative;
    max-width: 40rem;
  }
  & > svg {
    position: absolute;
    inset: auto 0 0 0;
    width: 100%;
    max-width: none;
    height: 10.5rem;
  }
  h1 {
    font-size: 2.5rem;
  }
  p {
    font-size: 1.125rem;
  }
  ${phone} {
    padding: 1.5rem 1rem 8.5rem;
    h1 {
      font-size: 1.9rem;
    }
    & > svg {
      height: 8rem;
    }
  }
`;
const Begin = styled.div`
  && {
    max-width: 56rem;
  }
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.75rem 1.25rem;
  button {
    font-size: 1.1875rem;
    padding: 0.5rem 1.4rem;
  }
  a {
    display: flex;
    align-items: center;
    min-height: 64px;
    padding: 0 1.4rem;
    border: 1.5px solid ${ink.edge};
    border-radius: 6px;
    background: ${ink.sheet};
    font-size: 1.1875rem;
    font-weight: 600;
    text-decoration: none;
  }
  a:hover {
    border-color: ${ink.text};
  }
  span.note {
    flex-basis: 100%;
    color: ${ink.quiet};
  }
`;
const Rest = styled.section`
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
  gap: 2rem 4rem;
  padding: 1.75rem 1.5rem 2rem;
  align-content: start;
  .foot {
    grid-column: 1 / -1;
    font-size: 0.9375rem;
  }
  ${phone} {
    grid-template-columns: minmax(0, 1fr);
    padding: 1.25rem 1rem 2rem;
  }
`;
const Column = styled.div`
  display: grid;
  gap: 0.75rem;
  align-content: start;
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

/** Where everything starts: one press to the first sound, or a choice of what to practise. */
export function Prepare() {
  const navigate = useNavigate();
  const attempts = useQuery({
    queryKey: ["attempts", "open"],
    queryFn: () =>
      said(api.GET("/api/attempts", { params: { query: { state: "open", most: 3 } } })),
  });
  const start = useStart();
  const open = attempts.data?.attempts ?? [];

  return (
    <Main>
      <First>
        <Calming />
        <h1>Bring a string to rest, by ear.</h1>
        <p>
          A fork sounds its A. The school guitar’s A string is a little out: the two beat, like
          ripples. Turn the peg until they stand still.
        </p>
        <Begin>
          <Button
            weight="solid"
            size="tall"
            isDisabled={start.isPending}
            onPress={() => start.mutate({ exercise: {} })}
          >
            Hear the fork and the A string
          </Button>
          <Link to="/prepare/method">Prepare an instrument of your own</Link>
          <span className="note">Starts quiet. With headphones on, keep the level low first.</span>
        </Begin>
        {start.error ? <Notice>{start.error.message}</Notice> : null}
      </First>
      <Rest>
        <Column>
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
        </Column>
        <Column>
          <h2>Or choose it all yourself</h2>
          <Quiet>The instrument, the method, how far out it starts, and how real it is.</Quiet>
          <Way to="/tune">Choose what to practise</Way>
          {attempts.error ? <Notice>{attempts.error.message}</Notice> : null}
          {open.length > 0 ? (
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
          ) : null}
        </Column>
        <Quiet className="foot">
          <Link to="/licences">Licences of what this page is built of</Link>
        </Quiet>
      </Rest>
    </Main>
  );
}
