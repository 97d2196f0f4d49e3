// One pupil: how they get on, what they did, and how they come in.

import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import styled from "styled-components";
import { api, said, type Schemas } from "../../api/client";
import { Button } from "../../parts/button";
import { Dialog } from "../../parts/dialog";
import { Typed } from "../../parts/entry";
import { Choices, Table } from "../../parts/layout";
import { Notice } from "../../parts/notice";
import { Tick } from "../../parts/tick";
import { dayAndTime, sizeWords } from "../../words/formats";
import { Buttons, Main, Part, Quiet, Scroll, Two, Way } from "./layout";
import { Slips } from "./list-dialog";
import { type Member, type Studio, useChange, useThisStudio } from "./use-studio";

const Says = styled.ul`
  display: grid;
  gap: 0.25rem;
  font-size: 1.125rem;
`;

export function Pupil() {
  const studio = useThisStudio();
  const { member: id = "" } = useParams();
  const member = studio.members.find((one) => one.id === id);
  if (!member)
    return (
      <Main>
        <Notice>There is no such pupil in this studio.</Notice>
      </Main>
    );
  return (
    <Main>
      <h1>{member.name}</h1>
      <Two>
        <Part>
          <GettingOn studio={studio} member={member} />
          <Did studio={studio} member={member} />
        </Part>
        <Part>
          <Groups studio={studio} member={member} />
          <SignIn studio={studio} member={member} />
          <Going studio={studio} member={member} />
        </Part>
      </Two>
    </Main>
  );
}

type Props = { studio: Studio; member: Member };

const pathOf = ({ studio, member }: Props) => ({ studio_id: studio.id, member_id: member.id });

function GettingOn(props: Props) {
  const path = pathOf(props);
  const progress = useQuery({
    queryKey: ["studio", "progress", path],
    queryFn: () =>
      said(
        api.GET("/api/studios/{studio_id}/members/{member_id}/progress", {
          params: { path, query: { weeks: 4 } },
        }),
      ),
  });
  const pdf = `/api/studios/${path.studio_id}/members/${path.member_id}/progress.pdf?weeks=12`;
  return (
    <>
      <h2>The last four weeks</h2>
      {progress.error ? <Notice>{progress.error.message}</Notice> : null}
      {progress.data ? (
        <Says>
          {progress.data.says.length > 0 ? (
            progress.data.says.map((one) => <li key={one}>{one}</li>)
          ) : (
            <li>There is not enough yet to say anything.</li>
          )}
        </Says>
      ) : null}
      <Buttons>
        <Way href={pdf} download>
          Save a page for the parents (PDF)
        </Way>
      </Buttons>
    </>
  );
}

function Did(props: Props) {
  const path = pathOf(props);
  const attempts = useQuery({
    queryKey: ["studio", "attempts", path],
    queryFn: () =>
      said(
        api.GET("/api/studios/{studio_id}/members/{member_id}/attempts", {
          params: { path, query: { most: 20 } },
        }),
      ),
  });
  if (attempts.error) return <Notice>{attempts.error.message}</Notice>;
  if (!attempts.data) return null;
  const done = attempts.data.attempts;
  if (done.length === 0) return <Quiet>{props.member.name} has not played anything yet.</Quiet>;
  return (
    <Scroll>
      <Table>
        <caption>What {props.member.name} did last</caption>
        <thead>
          <tr>
            <th scope="col">What</th>
            <th scope="col">When</th>
            <th scope="col">Strings off by</th>
            <th scope="col">By ear</th>
          </tr>
        </thead>
        <tbody>
          {done.map((one) => (
            <Line key={one.id} one={one} />
          ))}
        </tbody>
      </Table>
    </Scroll>
  );
}

function Line({ one }: { one: Schemas["AttemptSummary"] }) {
  const { brief } = one;
  const name = one.title ?? one.name;
  const isOver = one.finished_at !== null;
  const place = one.practice === "bench" ? `/review/${one.id}` : `/listen/${one.id}`;
  return (
    <tr>
      <td>{isOver ? <Link to={place}>{name}</Link> : `${name}, not finished`}</td>
      <td>{dayAndTime(one.created_at)}</td>
      <td>{brief && one.practice === "bench" ? sizeWords(brief.median_cents) : "–"}</td>
      <td>
        {brief && one.practice === "bench" && brief.by_ear_of > 0
          ? `${brief.by_ear} of ${brief.by_ear_of}`
          : "–"}
      </td>
    </tr>
  );
}

function Groups({ studio, member }: Props) {
  const put = useChange((groups: string[]) =>
    said(
      api.PATCH("/api/studios/{studio_id}/members/{member_id}", {
        params: { path: pathOf({ studio, member }) },
        body: { groups },
      }),
    ),
  );
  return (
    <div>
      <h2>Groups</h2>
      {studio.groups.length === 0 ? (
        <Quiet>There are none yet. Make them under “Studio”.</Quiet>
      ) : null}
      {studio.groups.map((one) => (
        <Tick
          key={one.id}
          words={one.name}
          about=""
          isSelected={member.groups.includes(one.id)}
          onChange={(on) =>
            put.mutate(
              on ? [...member.groups, one.id] : member.groups.filter((group) => group !== one.id),
            )
          }
        />
      ))}
      {put.error ? <Notice>{put.error.message}</Notice> : null}
    </div>
  );
}

function SignIn({ studio, member }: Props) {
  const [shown, setShown] = useState(false);
  const renew = useChange(
    () =>
      said(
        api.POST("/api/studios/{studio_id}/members/{member_id}/slip", {
          params: { path: pathOf({ studio, member }) },
        }),
      ),
    () => setShown(true),
  );
  return (
    <Part>
      <h2>Sign-in</h2>
      <Quiet>
        {member.signs_in_as ? `Signs in as ${member.signs_in_as}. ` : "A guest so far. "}
        {member.can_reset
          ? "A new slip ends the one before, and signs them out everywhere."
          : "Their sign-in is their own, and no slip can be made for them here."}
      </Quiet>
      {renew.error ? <Notice>{renew.error.message}</Notice> : null}
      {member.can_reset ? (
        <Buttons>
          <Button isDisabled={renew.isPending} onPress={() => renew.mutate(undefined)}>
            Make a new slip
          </Button>
        </Buttons>
      ) : null}
      {shown && renew.data ? (
        <Slips studio={studio} slips={[renew.data]} onClose={() => setShown(false)} />
      ) : null}
    </Part>
  );
}

type Asked = "remove" | "erase" | null;

/** Another name, out of the studio, or erased. */
function Going({ studio, member }: Props) {
  const navigate = useNavigate();
  const [name, setName] = useState(member.name);
  const [asked, setAsked] = useState<Asked>(null);
  const params = { path: pathOf({ studio, member }) };
  const gone = () => navigate(`/teach/${studio.id}`);
  const rename = useChange(() =>
    said(api.PATCH("/api/studios/{studio_id}/members/{member_id}", { params, body: { name } })),
  );
  const remove = useChange(
    () => said(api.DELETE("/api/studios/{studio_id}/members/{member_id}", { params })),
    gone,
  );
  const erase = useChange(
    () => said(api.DELETE("/api/studios/{studio_id}/members/{member_id}/everything", { params })),
    gone,
  );
  const problem = rename.error ?? remove.error ?? erase.error;
  const isOther = name.trim() !== "" && name.trim() !== member.name;
  return (
    <Part>
      <h2>In this studio</h2>
      <Typed
        label="Called"
        value={name}
        most={30}
        onType={setName}
        onDone={() => isOther && rename.mutate(undefined)}
      />
      {problem ? <Notice>{problem.message}</Notice> : null}
      <Buttons>
        {isOther ? <Button onPress={() => rename.mutate(undefined)}>Change the name</Button> : null}
        <Button onPress={() => setAsked("remove")}>Take out of the studio</Button>
        {member.can_erase ? (
          <Button onPress={() => setAsked("erase")}>Erase with all work</Button>
        ) : null}
      </Buttons>
      <Dialog
        title={
          asked === "erase"
            ? `Erase ${member.name} with all work?`
            : `Take ${member.name} out of the studio?`
        }
        isOpen={asked !== null}
        onClose={() => setAsked(null)}
        role="alertdialog"
      >
        <p>
          {asked === "erase"
            ? "Everything they did is erased here and now, for good. It stays in backups that were made before, until those are erased."
            : "They keep their work and their sign-in. You see their work no longer."}
        </p>
        <Choices>
          <Button onPress={() => setAsked(null)}>No, leave it</Button>
          <Button
            weight="solid"
            onPress={() => (asked === "erase" ? erase : remove).mutate(undefined)}
          >
            {asked === "erase" ? "Erase it all" : "Take out"}
          </Button>
        </Choices>
      </Dialog>
    </Part>
  );
}
