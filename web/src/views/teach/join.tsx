// Join a studio by a code, and see the studios one is in.

import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, queries, said } from "../../api/client";
import { Button } from "../../parts/button";
import { Typed } from "../../parts/entry";
import { Notice } from "../../parts/notice";
import { Tick } from "../../parts/tick";
import { useLearner } from "../../parts/use-learner";
import { Buttons, Lines, Main, Part, Quiet, Way } from "./layout";
import { useChange, useStudios } from "./use-studio";

export function Join() {
  const learner = useLearner();
  const [code, setCode] = useState(location.hash.replace("#", ""));
  const [name, setName] = useState("");
  const [lets, setLets] = useState(false);
  const navigate = useNavigate();
  const look = useMutation({
    mutationFn: () => said(api.POST("/api/studios/join/look", { body: { code } })),
  });
  const join = useMutation({
    mutationFn: () =>
      said(
        api.POST("/api/studios/join", {
          body: { code, name: name || (learner.data?.name ?? ""), lets_reset: lets },
        }),
      ),
    onSuccess: (places) => {
      void queries.invalidateQueries();
      const teaches = places.find((one) => one.role !== "pupil" && one.name === look.data?.name);
      navigate(teaches ? `/teach/${teaches.id}` : "/join");
      look.reset();
      setCode("");
    },
  });
  const found = look.data;
  const problem = look.error ?? join.error;
  const hasCode = code.trim() !== "" && !look.isPending;
  return (
    <Main>
      <h1>Join a studio</h1>
      {found ? (
        <Part>
          <p>
            <strong>{found.name}</strong>, with {found.teachers.join(" and ")}.
          </p>
          {found.role === "pupil" ? (
            <>
              <Typed
                label="What your teacher calls you"
                value={name}
                most={30}
                placeholder={learner.data?.name ?? ""}
                onType={setName}
                onDone={() => undefined}
              />
              <Quiet>
                Those who teach there see what you play here and how you get on. Other pupils do
                not. You can leave at any time. <Link to="/parents">For parents</Link>
              </Quiet>
              <Tick
                words="They may make a new slip for me"
                about="if I lose mine. With it they could sign in as me."
                isSelected={lets}
                onChange={setLets}
              />
            </>
          ) : (
            <Quiet>You are invited to teach there. You see its pupils and their work.</Quiet>
          )}
          {problem ? <Notice>{problem.message}</Notice> : null}
          <Buttons>
            <Button
              weight="solid"
              size="tall"
              isDisabled={join.isPending}
              onPress={() => join.mutate()}
            >
              {found.role === "pupil" ? "Join" : "Join as a teacher"}
            </Button>
            <Button onPress={() => look.reset()}>Another code</Button>
          </Buttons>
        </Part>
      ) : (
        <Part>
          <Quiet>Your teacher has a code: eight letters on the wall, or on a slip.</Quiet>
          <Typed
            label="The code"
            value={code}
            most={24}
            onType={setCode}
            onDone={() => hasCode && look.mutate()}
          />
          {problem ? <Notice>{problem.message}</Notice> : null}
          <Buttons>
            <Button weight="solid" size="tall" isDisabled={!hasCode} onPress={() => look.mutate()}>
              Go on
            </Button>
          </Buttons>
        </Part>
      )}
      <Places />
    </Main>
  );
}

/** The studios one is in, and a way out of each. */
function Places() {
  const studios = useStudios();
  const leave = useChange((id: string) =>
    said(api.POST("/api/studios/{studio_id}/leave", { params: { path: { studio_id: id } } })),
  );
  if (!studios.data || studios.data.length === 0) return null;
  return (
    <Part>
      <h2>You are in</h2>
      {leave.error ? <Notice>{leave.error.message}</Notice> : null}
      <Lines aria-label="Your studios">
        {studios.data.map((one) => (
          <li key={one.id}>
            <span>
              <strong>{one.name}</strong>
              <small>
                {one.role === "pupil"
                  ? `as ${one.called}, with ${one.teachers.join(" and ")}`
                  : "as a teacher"}
              </small>
            </span>
            {one.role === "pupil" ? (
              <Button aria-label={`Leave ${one.name}`} onPress={() => leave.mutate(one.id)}>
                Leave
              </Button>
            ) : (
              <Way as={Link} to={`/teach/${one.id}`}>
                Open
              </Way>
            )}
          </li>
        ))}
      </Lines>
    </Part>
  );
}
