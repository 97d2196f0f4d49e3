// The exercises of a studio: what is set just now, and the collection it is taken from.

import { useState } from "react";
import { FileTrigger } from "react-aria-components";
import { Link, useNavigate } from "react-router";
import styled from "styled-components";
import { api, said } from "../../api/client";
import { Button } from "../../parts/button";
import { Table } from "../../parts/layout";
import { Notice } from "../../parts/notice";
import { day } from "../../words/formats";
import { Buttons, Lines, Main, Part, Quiet, Scroll, Two, Way } from "./layout";
import { ReadyDialog } from "./ready-dialog";
import { useChange, useThisStudio } from "./use-studio";
import { useGiven, useTasks } from "./use-tasks";

const SetNow = styled(Table)`
  td a {
    display: inline-flex;
    align-items: center;
    min-height: 44px;
    font-weight: 650;
  }
`;

export function Exercises() {
  const studio = useThisStudio();
  const tasks = useTasks(studio.id);
  const given = useGiven(studio.id);
  const navigate = useNavigate();
  const [ready, setReady] = useState(false);
  const bring = useChange(
    async (file: File) => {
      const body = await file.text();
      return said(
        api.POST("/api/studios/{studio_id}/tasks/import", {
          params: { path: { studio_id: studio.id }, query: { name: file.name } },
          body,
          bodySerializer: (text) => text,
          headers: { "content-type": "text/plain" },
        }),
      );
    },
    (made) => navigate(`/teach/${studio.id}/exercises/${made.id}`),
  );
  const set = given.data?.pages.flatMap((page) => page.given) ?? [];
  const problem = tasks.error ?? given.error ?? bring.error;
  return (
    <Main>
      <Two>
        <Part>
          <h1>Exercises</h1>
          {problem ? <Notice>{problem.message}</Notice> : null}
          {set.length > 0 ? (
            <Scroll>
              <SetNow>
                <caption>Set</caption>
                <thead>
                  <tr>
                    <th scope="col">Exercise</th>
                    <th scope="col">To</th>
                    <th scope="col">Due</th>
                    <th scope="col">Done</th>
                  </tr>
                </thead>
                <tbody>
                  {set.map((one) => (
                    <tr key={one.id}>
                      <td>
                        <Link to={`/teach/${studio.id}/given/${one.id}`}>{one.name}</Link>
                      </td>
                      <td>{one.to}</td>
                      <td>{one.due ? day(one.due) : "–"}</td>
                      <td>{one.of > 0 ? `${one.done} of ${one.of}` : "see results"}</td>
                    </tr>
                  ))}
                </tbody>
              </SetNow>
            </Scroll>
          ) : (
            <Quiet>
              Nothing is set yet. Make an exercise, try it yourself, and give it to a pupil, a group
              or by a code.
            </Quiet>
          )}
          {given.hasNextPage ? (
            <div>
              <Button
                isDisabled={given.isFetchingNextPage}
                onPress={() => void given.fetchNextPage()}
              >
                Show earlier ones
              </Button>
            </div>
          ) : null}
          <h2>Collection</h2>
          {tasks.data && tasks.data.length > 0 ? (
            <Lines aria-label="Collection">
              {tasks.data.map((one) => (
                <li key={one.id}>
                  <span>
                    <strong>{one.name}</strong>
                    <small>{one.part_names.join(" · ")}</small>
                  </span>
                  <Way
                    as={Link}
                    to={`/teach/${studio.id}/exercises/${one.id}`}
                    aria-label={`Open ${one.name}`}
                  >
                    Open
                  </Way>
                </li>
              ))}
            </Lines>
          ) : (
            <Quiet>The collection is empty.</Quiet>
          )}
        </Part>
        <Part>
          <h2>Make one</h2>
          <Buttons>
            <Button weight="solid" onPress={() => setReady(true)}>
              A first lesson, or two minutes
            </Button>
          </Buttons>
          <Quiet>Or choose everything yourself, as for your own practice, and keep it here.</Quiet>
          <Buttons>
            <Way as={Link} to="/tune">
              From the bench
            </Way>
            <FileTrigger
              acceptedFileTypes={[".json", "application/json"]}
              onSelect={(files) => {
                const file = files?.[0];
                if (file) bring.mutate(file);
              }}
            >
              <Button>Bring in a file</Button>
            </FileTrigger>
          </Buttons>
          <h2>To hear together</h2>
          <Quiet>Comparisons at one press, big and audible.</Quiet>
          <Buttons>
            <Way as={Link} to="/show">
              Show the class
            </Way>
          </Buttons>
        </Part>
      </Two>
      {ready ? <ReadyDialog studio={studio.id} onClose={() => setReady(false)} /> : null}
    </Main>
  );
}
