// Teach: the studios one teaches in, and how to begin one or join one.

import { useState } from "react";
import { Link, Navigate, useNavigate } from "react-router";
import { api, queries, said } from "../../api/client";
import { Button } from "../../parts/button";
import { Typed } from "../../parts/entry";
import { Notice } from "../../parts/notice";
import { useLearner } from "../../parts/use-learner";
import { Buttons, Lines, Main, Part, Quiet, Two, Way } from "./layout";
import { useChange, useStudios } from "./use-studio";

/** Where teaching begins; who teaches in one studio is there at once. */
export function Teach() {
  const studios = useStudios();
  if (studios.error)
    return (
      <Main>
        <Notice>{studios.error.message}</Notice>
      </Main>
    );
  if (!studios.data) return <Main />;
  const taught = studios.data.filter((one) => one.role !== "pupil");
  const only = taught.length === 1 ? taught[0] : undefined;
  if (only) return <Navigate to={`/teach/${only.id}`} replace />;
  return (
    <Main>
      <h1>Teach a class</h1>
      <Two>
        <Part>
          {taught.length > 0 ? (
            <Lines aria-label="Your studios">
              {taught.map((one) => (
                <li key={one.id}>
                  <strong>{one.name}</strong>
                  <Way as={Link} to={`/teach/${one.id}`}>
                    Open
                  </Way>
                </li>
              ))}
            </Lines>
          ) : (
            <Quiet>
              A studio holds your pupils, their groups and the school’s instruments. You make a
              class from a list of names, and each pupil gets a slip. No addresses, no real names
              needed.
            </Quiet>
          )}
          <MakeStudio />
        </Part>
        <Part>
          <h2>Without a studio</h2>
          <Quiet>Comparisons to hear together, big and at one press.</Quiet>
          <Buttons>
            <Way as={Link} to="/show">
              Show the class
            </Way>
          </Buttons>
          <h2>Somebody gave you a code?</h2>
          <Buttons>
            <Way as={Link} to="/join">
              Join a studio
            </Way>
          </Buttons>
        </Part>
      </Two>
    </Main>
  );
}

/** Make a studio; who has no name yet takes one first. */
export function MakeStudio() {
  const learner = useLearner();
  const navigate = useNavigate();
  const [name, setName] = useState("");
  const make = useChange(
    (called: string) => said(api.POST("/api/studios", { body: { name: called } })),
    (made) => {
      void queries.invalidateQueries({ queryKey: ["learner"] });
      navigate(`/teach/${made.id}`);
    },
  );
  if (!learner.data) return null;
  if (learner.data.who !== "learner")
    return (
      <>
        <h2>First, a name for you</h2>
        <Quiet>
          Your pupils see it, and it brings you back on any device. Take it under “My work”, then
          come here again.
        </Quiet>
        <Buttons>
          <Way as={Link} to="/account">
            Take a name
          </Way>
        </Buttons>
      </>
    );
  const isReady = name.trim() !== "" && !make.isPending;
  return (
    <>
      <h2>Make a studio</h2>
      <Typed
        label="What it is called"
        value={name}
        most={40}
        onType={setName}
        onDone={() => isReady && make.mutate(name)}
      />
      {make.error ? <Notice>{make.error.message}</Notice> : null}
      <Buttons>
        <Button weight="solid" size="tall" isDisabled={!isReady} onPress={() => make.mutate(name)}>
          Make a studio
        </Button>
      </Buttons>
    </>
  );
}
