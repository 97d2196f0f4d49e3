// What a class made of an exercise: one sentence, one picture, whom to help first, then the table.

import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import styled from "styled-components";
import { api, said } from "../../api/client";
import { Button } from "../../parts/button";
import { Choice } from "../../parts/choice";
import { Dialog } from "../../parts/dialog";
import { Fold } from "../../parts/fold";
import { Choices, Table } from "../../parts/layout";
import { Notice } from "../../parts/notice";
import { day } from "../../words/formats";
import { nameOf } from "../../words/names";
import { ClassPicture } from "./class-picture";
import { Buttons, Lines, Main, OnTheWall, Part, Quiet, Scroll, Two, Way } from "./layout";
import { useChange, useThisStudio } from "./use-studio";
import { type ClassPage, useResults } from "./use-tasks";

const Says = styled.h1`
  font-size: 2rem;
`;
const Rows = styled(Table)`
  td a {
    display: inline-flex;
    align-items: center;
    min-height: 44px;
    font-weight: 650;
  }
`;

export function Results() {
  const studio = useThisStudio();
  const { given = "" } = useParams();
  const [chosen, setPart] = useState<number | null>(null);
  const [isShown, setShown] = useState(false);
  const results = useResults(studio.id, given, chosen ?? 0);
  if (results.error)
    return (
      <Main>
        <Notice>{results.error.message}</Notice>
      </Main>
    );
  if (!results.data) return <Main />;
  const page = results.data;
  const { part } = page;
  // what is read has no result
  const done = page.parts.map((_, at) => at).filter((at) => page.kinds[at] !== "read");
  if (chosen === null && page.kinds[part] === "read" && done[0] !== undefined) setPart(done[0]);
  const choice =
    done.length > 1 ? (
      <Choice
        label="Part"
        value={String(part)}
        options={done.map((at) => ({ id: String(at), words: `Part ${at + 1}` }))}
        onChoose={(id) => setPart(Number(id))}
      />
    ) : null;
  const toMark =
    page.kinds[part] === "tune" ? page.pupils.find((one) => one.attempt)?.attempt : undefined;
  if (isShown) return <ForTheClass page={page} onBack={() => setShown(false)} />;
  return (
    <Main>
      <div>
        <Quiet>
          {page.name} · {page.to} · set {day(page.given)}
          {page.due ? ` · due ${day(page.due)}` : ""}
        </Quiet>
        <Says>{page.says}</Says>
        {page.more.length > 0 ? <p>{page.more.join(" ")}</p> : null}
      </div>
      {choice}
      {page.parts.length > 1 ? <Quiet>{page.parts[part]}</Quiet> : null}
      <Two>
        <Part>
          {page.strings.length > 0 ? (
            <ClassPicture
              strings={page.strings}
              tolerance={page.tolerance_cents}
              names={page.pupils.map((one) => one.name)}
            />
          ) : null}
        </Part>
        <Part>
          {page.code ? (
            <>
              <h2>On the wall</h2>
              <OnTheWall>{page.code}</OnTheWall>
              <Quiet>Typed at {location.host}/do, it opens the exercise, without an account.</Quiet>
            </>
          ) : null}
          {page.help_first.length > 0 ? (
            <>
              <h2>Whom to help first</h2>
              <Lines aria-label="Whom to help first">
                {page.help_first.map((one) => (
                  <li key={one.name}>
                    <span>
                      <strong>{one.name}</strong>
                      <small>{one.why}</small>
                    </span>
                  </li>
                ))}
              </Lines>
            </>
          ) : null}
          {toMark ? (
            <Buttons>
              <Way
                as={Link}
                to={`/review/${toMark}/replay?studio=${studio.id}&given=${page.id}&part=${part}`}
              >
                Hear and remark, one after the other
              </Way>
            </Buttons>
          ) : null}
          <Buttons>
            <Button weight="solid" onPress={() => setShown(true)}>
              Show the class, without names
            </Button>
          </Buttons>
          <Buttons>
            <Way
              href={`/api/studios/${studio.id}/given/${page.id}/results.csv?part=${part}`}
              download
            >
              Save the table (CSV)
            </Way>
            <TakeBack page={page} />
          </Buttons>
        </Part>
      </Two>
      <Pupils page={page} />
      <Tables page={page} />
    </Main>
  );
}

function Pupils({ page }: { page: ClassPage }) {
  const isDrill = page.pupils.some((one) => one.trials > 0);
  return (
    <Scroll>
      <Rows aria-label="Pupils">
        <thead>
          <tr>
            <th scope="col">Pupil</th>
            <th scope="col">Done</th>
            {isDrill ? (
              <th scope="col">Right</th>
            ) : (
              <>
                <th scope="col">Middle</th>
                <th scope="col">Worst</th>
                <th scope="col">Side named</th>
                <th scope="col">By ear</th>
                <th scope="col">One thing to change</th>
              </>
            )}
          </tr>
        </thead>
        <tbody>
          {page.pupils.map((one) => (
            <tr key={one.name}>
              <td>
                {one.attempt ? (
                  <Link to={`/${isDrill ? "listen" : "review"}/${one.attempt}`}>{one.name}</Link>
                ) : (
                  one.name
                )}
              </td>
              <td>{timesWords(one.times)}</td>
              {isDrill ? (
                <td>{one.trials > 0 ? `${one.right} of ${one.trials}` : "–"}</td>
              ) : (
                <>
                  <td>{one.middle_cents === null ? "–" : `±${one.middle_cents.toFixed(1)}`}</td>
                  <td>
                    {one.worst_cents === null
                      ? "–"
                      : `${one.worst_cents.toFixed(one.worst_cents < 10 ? 1 : 0)}, ${one.worst}`}
                  </td>
                  <td>{one.sides_of > 0 ? `${one.sides_right} of ${one.sides_of}` : "–"}</td>
                  <td>{one.by_ear_of > 0 ? `${one.by_ear} of ${one.by_ear_of}` : "–"}</td>
                  <td>{one.change || "–"}</td>
                </>
              )}
            </tr>
          ))}
        </tbody>
      </Rows>
    </Scroll>
  );
}

function timesWords(times: number): string {
  return times === 0 ? "not yet" : times === 1 ? "once" : `${times} times`;
}

/** The numbers behind the picture: by string, by help, by part of technique. */
function Tables({ page }: { page: ClassPage }) {
  if (page.strings.length === 0) return null;
  return (
    <div>
      <Fold head={<strong>By string</strong>}>
        <Table aria-label="By string">
          <thead>
            <tr>
              <th scope="col">String</th>
              <th scope="col">Too low</th>
              <th scope="col">In tune</th>
              <th scope="col">Too high</th>
            </tr>
          </thead>
          <tbody>
            {page.strings.map((one) => (
              <tr key={one.string}>
                <td>{one.label}</td>
                <td>{one.low}</td>
                <td>{one.well}</td>
                <td>{one.high}</td>
              </tr>
            ))}
          </tbody>
        </Table>
      </Fold>
      <Fold head={<strong>By help</strong>}>
        <Table aria-label="By help">
          <tbody>
            {page.aids.map((one) => (
              <tr key={one.aid}>
                <td>{nameOf("bases", one.aid)}</td>
                <td>{one.pupils}</td>
              </tr>
            ))}
          </tbody>
        </Table>
      </Fold>
      {page.rules.length > 0 ? (
        <Fold head={<strong>By part of technique</strong>}>
          <Table aria-label="By part of technique">
            <tbody>
              {page.rules.map((one) => (
                <tr key={one.rule}>
                  <td>{one.title}</td>
                  <td>
                    {one.broke} of {one.of} could do better
                  </td>
                </tr>
              ))}
            </tbody>
          </Table>
        </Fold>
      ) : null}
    </div>
  );
}

const Big = styled(Main)`
  max-width: 90rem;
  h1 {
    font-size: clamp(1.75rem, 4vw, 3.25rem);
  }
  p {
    font-size: 1.375rem;
  }
`;

const Seen = styled.div`
  svg {
    max-height: 60vh;
  }
`;

/** For the projector: the sentence and the picture, and nobody's name. */
function ForTheClass({ page, onBack }: { page: ClassPage; onBack: () => void }) {
  return (
    <Big>
      <h1>{page.says}</h1>
      {page.strings.length > 0 ? (
        <Seen>
          <ClassPicture strings={page.strings} tolerance={page.tolerance_cents} names={null} />
        </Seen>
      ) : null}
      <Buttons>
        <Button onPress={onBack}>Back to the names</Button>
      </Buttons>
    </Big>
  );
}

function TakeBack({ page }: { page: ClassPage }) {
  const studio = useThisStudio();
  const navigate = useNavigate();
  const [asks, setAsks] = useState(false);
  const back = useChange(
    () =>
      said(
        api.DELETE("/api/studios/{studio_id}/given/{assignment_id}", {
          params: { path: { studio_id: studio.id, assignment_id: page.id } },
        }),
      ),
    () => navigate(`/teach/${studio.id}/exercises`),
  );
  return (
    <>
      <Button onPress={() => setAsks(true)}>Take it back</Button>
      <Dialog title={`Take “${page.name}” back?`} isOpen={asks} onClose={() => setAsks(false)}>
        <p>It is no longer set, and this page goes. Pupils keep what they did.</p>
        {back.error ? <Notice>{back.error.message}</Notice> : null}
        <Choices>
          <Button onPress={() => setAsks(false)}>No, leave it</Button>
          <Button weight="solid" onPress={() => back.mutate(undefined)}>
            Take it back
          </Button>
        </Choices>
      </Dialog>
    </>
  );
}
