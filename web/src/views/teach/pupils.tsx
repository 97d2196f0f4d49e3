// The pupils of a studio: who they are, in which groups, and how more of them come.

import { useState } from "react";
import { Link } from "react-router";
import styled from "styled-components";
import { api, said } from "../../api/client";
import { Button } from "../../parts/button";
import { Choice } from "../../parts/choice";
import { Table } from "../../parts/layout";
import { Notice } from "../../parts/notice";
import { phone } from "../../theme/theme";
import { day } from "../../words/formats";
import { Buttons, Main, OnTheWall, Part, Quiet, Scroll, Two } from "./layout";
import { ListDialog } from "./list-dialog";
import { type Member, type Studio, useChange, useThisStudio } from "./use-studio";

const People = styled(Table)`
  td a {
    display: inline-flex;
    align-items: center;
    min-height: 44px;
    font-weight: 650;
  }
  ${phone} {
    th:nth-child(3),
    td:nth-child(3) {
      display: none;
    }
  }
`;

export function Pupils() {
  const studio = useThisStudio();
  const [group, setGroup] = useState("all");
  const [listing, setListing] = useState(false);
  const pupils = studio.members.filter((one) => one.role === "pupil");
  const shown = pupils.filter((one) => group === "all" || one.groups.includes(group));
  return (
    <Main>
      <Two>
        <Part>
          <h1>{headline(pupils.length)}</h1>
          {studio.groups.length > 0 && studio.groups.length <= 5 ? (
            <Choice
              label="Group"
              value={group}
              options={[
                { id: "all", words: "All" },
                ...studio.groups.map((one) => ({ id: one.id, words: one.name })),
              ]}
              onChoose={setGroup}
            />
          ) : null}
          {shown.length > 0 ? (
            <Scroll>
              <People aria-label="Pupils">
                <thead>
                  <tr>
                    <th scope="col">Pupil</th>
                    <th scope="col">Groups</th>
                    <th scope="col">Signs in as</th>
                    <th scope="col">Last here</th>
                  </tr>
                </thead>
                <tbody>
                  {shown.map((one) => (
                    <Row key={one.id} studio={studio} member={one} />
                  ))}
                </tbody>
              </People>
            </Scroll>
          ) : null}
          {pupils.length > 0 && shown.length === 0 ? (
            <Quiet>Nobody is in this group yet. Open a pupil to put them into it.</Quiet>
          ) : null}
        </Part>
        <Part>
          <h2>More pupils</h2>
          <Quiet>Bring a list of names. Each pupil gets a slip that opens their work.</Quiet>
          <Buttons>
            <Button
              weight={pupils.length === 0 ? "solid" : "plain"}
              onPress={() => setListing(true)}
            >
              Make a class from a list
            </Button>
          </Buttons>
          <OnesOwnWay studio={studio} />
        </Part>
      </Two>
      {listing ? <ListDialog studio={studio} onClose={() => setListing(false)} /> : null}
    </Main>
  );
}

function headline(pupils: number): string {
  if (pupils === 0) return "No pupils yet";
  return pupils === 1 ? "1 pupil" : `${pupils} pupils`;
}

function Row({ studio, member }: { studio: Studio; member: Member }) {
  const groups = studio.groups.filter((one) => member.groups.includes(one.id));
  const never = member.seen === member.joined && member.can_erase;
  return (
    <tr>
      <td>
        <Link to={`/teach/${studio.id}/pupils/${member.id}`}>{member.name}</Link>
      </td>
      <td>{groups.map((one) => one.name).join(", ") || "–"}</td>
      <td>{member.signs_in_as ?? "a guest so far"}</td>
      <td>{never ? "not yet" : day(member.seen)}</td>
    </tr>
  );
}

/** Pupils who come by themselves, by a code on the wall. */
function OnesOwnWay({ studio }: { studio: Studio }) {
  const path = { params: { path: { studio_id: studio.id } } };
  const renew = useChange(() => said(api.POST("/api/studios/{studio_id}/code", path)));
  const close = useChange(() => said(api.DELETE("/api/studios/{studio_id}/code", path)));
  const problem = renew.error ?? close.error;
  return (
    <>
      <h2>Or they join by a code</h2>
      {studio.join_code ? (
        <>
          <OnTheWall>{studio.join_code}</OnTheWall>
          <Quiet>Write it on the wall. Pupils type it at {location.host}/join.</Quiet>
        </>
      ) : (
        <Quiet>Nobody can join by a code now.</Quiet>
      )}
      {problem ? <Notice>{problem.message}</Notice> : null}
      <Buttons>
        <Button onPress={() => renew.mutate(undefined)}>
          {studio.join_code ? "Another code" : "Make a code"}
        </Button>
        {studio.join_code ? (
          <Button onPress={() => close.mutate(undefined)}>Let nobody in by it</Button>
        ) : null}
      </Buttons>
    </>
  );
}
