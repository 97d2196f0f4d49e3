import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import styled from "styled-components";
import { type Aid, api, queries, type StartKind, said } from "../../api/client";
import { Button } from "../../parts/button";
import { Choice } from "../../parts/choice";
import { Notice } from "../../parts/notice";
import { player } from "../../sound/player";
import { ink, phone } from "../../theme/theme";
import { AIDS, dayAndTime, exerciseName, STARTS } from "../words";
import { Calming } from "./calming";

const AID_KEY = "meldrin:aid";

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
const Quiet = styled.p`
  color: ${ink.quiet};
`;

function storedAid(): Aid {
  const stored = localStorage.getItem(AID_KEY);
  return stored === "ear" || stored === "level" ? stored : "ripple";
}

/** Where everything starts: one press to the first sound, or a choice of what to practise. */
export function Prepare() {
  const navigate = useNavigate();
  const [aid, setAid] = useState(storedAid);
  const attempts = useQuery({
    queryKey: ["attempts"],
    queryFn: () => said(api.GET("/api/attempts")),
  });
  const start = useMutation({
    mutationFn: (kind: StartKind) => {
      void player.start(); // within the press; the bench waits for it before the first sound
      return said(
        api.POST("/api/attempts", {
          body: { instrument: "guitar", method: "unison", start: kind, a4_hz: 440 },
        }),
      );
    },
    onSuccess: (attempt) => {
      void queries.invalidateQueries({ queryKey: ["attempts"] });
      navigate(`/tune/${attempt.id}`, { state: { aid } });
    },
  });
  const open = (attempts.data ?? []).filter((attempt) => attempt.finished_at === null).slice(0, 3);

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
            onPress={() => start.mutate("hair")}
          >
            Hear the fork and the A string
          </Button>
          <Link to="/prepare/way">Prepare an instrument of your own</Link>
          <span className="note">Starts quiet. With headphones on, keep the level low first.</span>
        </Begin>
        {start.error ? <Notice>{start.error.message}</Notice> : null}
      </First>
      <Rest>
        <Column>
          <h2>Choose how far out the guitar is</h2>
          <Rows>
            {(["hair", "month", "one"] as const).map((kind) => (
              <li key={kind}>
                <div>
                  <strong>{STARTS[kind].name}</strong>
                  <p>{STARTS[kind].about}</p>
                </div>
                <Button
                  aria-label={`Start: ${STARTS[kind].name}`}
                  isDisabled={start.isPending}
                  onPress={() => start.mutate(kind)}
                >
                  Start
                </Button>
              </li>
            ))}
          </Rows>
        </Column>
        <Column>
          <h2>How much should the picture help?</h2>
          <Choice
            label="How much the picture helps"
            value={aid}
            options={(["ear", "ripple", "level"] as const).map((id) => ({
              id,
              words: AIDS[id].name,
            }))}
            onChoose={(chosen) => {
              localStorage.setItem(AID_KEY, chosen);
              setAid(chosen);
            }}
          />
          <Quiet>{AIDS[aid].about}</Quiet>
          {attempts.error ? <Notice>{attempts.error.message}</Notice> : null}
          {open.length > 0 ? (
            <>
              <h2>Not finished yet</h2>
              <Rows>
                {open.map((attempt) => (
                  <li key={attempt.id}>
                    <div>
                      <strong>{exerciseName(attempt)}</strong>
                      <p>{dayAndTime(attempt.created_at)}</p>
                    </div>
                    <Button
                      aria-label={`Go on with ${exerciseName(attempt)}`}
                      onPress={() => {
                        void player.start();
                        navigate(`/tune/${attempt.id}`);
                      }}
                    >
                      Go on
                    </Button>
                  </li>
                ))}
              </Rows>
            </>
          ) : null}
        </Column>
      </Rest>
    </Main>
  );
}
