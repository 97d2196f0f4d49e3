// The studio itself: its teachers, groups and shared devices, who did what, and its end.

import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, queries, said } from "../../api/client";
import { Button } from "../../parts/button";
import { Dialog } from "../../parts/dialog";
import { Typed } from "../../parts/entry";
import { Fold } from "../../parts/fold";
import { Choices, Table } from "../../parts/layout";
import { Notice } from "../../parts/notice";
import { day, dayAndTime } from "../../words/formats";
import { Buttons, Lines, Main, OnTheWall, Part, Quiet, Scroll, Two, Way } from "./layout";
import { MakeStudio } from "./teach";
import { type Member, type Studio, useChange, useThisStudio } from "./use-studio";

export function Settings() {
  const studio = useThisStudio();
  return (
    <Main>
      <h1>{studio.name}</h1>
      <Two>
        <Part>
          <Teachers studio={studio} />
          <Groups studio={studio} />
          <Devices studio={studio} />
        </Part>
        <Part>
          {studio.role === "owner" ? <Name studio={studio} /> : null}
          <Leaving studio={studio} />
          <h2>For parents</h2>
          <Quiet>One page that says what is kept, who sees it, and how to erase it.</Quiet>
          <Buttons>
            <Way as={Link} to="/parents">
              Open the page
            </Way>
          </Buttons>
        </Part>
      </Two>
      <div>
        {studio.role === "owner" ? (
          <Fold head={<strong>Who saw and changed what</strong>}>
            <Audit studio={studio} />
          </Fold>
        ) : null}
        <Fold head={<strong>Another studio</strong>}>
          <Part>
            <MakeStudio />
          </Part>
        </Fold>
      </div>
    </Main>
  );
}

type Props = { studio: Studio };

const pathOf = (studio: Studio) => ({ params: { path: { studio_id: studio.id } } });

function Teachers({ studio }: Props) {
  const invite = useChange(() =>
    said(api.POST("/api/studios/{studio_id}/invitations", pathOf(studio))),
  );
  const teachers = studio.members.filter((one) => one.role !== "pupil");
  return (
    <Part>
      <h2>Teachers</h2>
      <Lines aria-label="Teachers">
        {teachers.map((one) => (
          <Teacher key={one.id} studio={studio} member={one} />
        ))}
      </Lines>
      {invite.data ? (
        <>
          <OnTheWall>{invite.data.code}</OnTheWall>
          <Quiet>
            Give this code to one teacher, who types it at {location.host}/join within a week. It
            works once, and is shown only now.
          </Quiet>
        </>
      ) : null}
      {invite.error ? <Notice>{invite.error.message}</Notice> : null}
      {studio.role === "owner" ? (
        <Buttons>
          <Button onPress={() => invite.mutate(undefined)}>Invite a teacher</Button>
        </Buttons>
      ) : null}
    </Part>
  );
}

function Teacher({ studio, member }: Props & { member: Member }) {
  const params = { path: { studio_id: studio.id, member_id: member.id } };
  const give = useChange((role: "teacher" | "owner") =>
    said(api.PATCH("/api/studios/{studio_id}/members/{member_id}", { params, body: { role } })),
  );
  const remove = useChange(() =>
    said(api.DELETE("/api/studios/{studio_id}/members/{member_id}", { params })),
  );
  const other = member.role === "owner" ? "teacher" : "owner";
  const owners = studio.members.filter((one) => one.role === "owner");
  const isOnly = member.role === "owner" && owners.length === 1;
  const words = other === "owner" ? "Make an owner" : "Make a teacher";
  const problem = give.error ?? remove.error;
  return (
    <li>
      <span>
        <strong>{member.name}</strong>
        <small>{member.role === "owner" ? "owns the studio" : "teaches"}</small>
      </span>
      {studio.role === "owner" && !isOnly ? (
        <Buttons>
          <Button aria-label={`${words}: ${member.name}`} onPress={() => give.mutate(other)}>
            {words}
          </Button>
          {member.role === "teacher" ? (
            <Button aria-label={`Take out ${member.name}`} onPress={() => remove.mutate(undefined)}>
              Take out
            </Button>
          ) : null}
        </Buttons>
      ) : null}
      {problem ? <Notice>{problem.message}</Notice> : null}
    </li>
  );
}

function Groups({ studio }: Props) {
  const [name, setName] = useState("");
  const add = useChange(
    () => said(api.POST("/api/studios/{studio_id}/groups", { ...pathOf(studio), body: { name } })),
    () => setName(""),
  );
  const erase = useChange((group: string) =>
    said(
      api.DELETE("/api/studios/{studio_id}/groups/{group_id}", {
        params: { path: { studio_id: studio.id, group_id: group } },
      }),
    ),
  );
  const problem = add.error ?? erase.error;
  const isReady = name.trim() !== "" && !add.isPending;
  return (
    <Part>
      <h2>Groups</h2>
      {studio.groups.length > 0 ? (
        <Lines aria-label="Groups">
          {studio.groups.map((one) => (
            <li key={one.id}>
              <span>
                <strong>{one.name}</strong>
                <small>{sizeOf(studio, one.id)}</small>
              </span>
              <Button aria-label={`Erase ${one.name}`} onPress={() => erase.mutate(one.id)}>
                Erase
              </Button>
            </li>
          ))}
        </Lines>
      ) : null}
      <Typed
        label="A new group"
        value={name}
        most={40}
        onType={setName}
        onDone={() => isReady && add.mutate(undefined)}
      />
      {problem ? <Notice>{problem.message}</Notice> : null}
      <Buttons>
        <Button isDisabled={!isReady} onPress={() => add.mutate(undefined)}>
          Add the group
        </Button>
      </Buttons>
    </Part>
  );
}

function sizeOf(studio: Studio, group: string): string {
  const count = studio.members.filter((one) => one.groups.includes(group)).length;
  return count === 1 ? "1 pupil" : `${count} pupils`;
}

/** This very browser becomes one that pupils share. */
function Devices({ studio }: Props) {
  const [name, setName] = useState("");
  const share = useChange(
    () => said(api.POST("/api/studios/{studio_id}/devices", { ...pathOf(studio), body: { name } })),
    () => {
      queries.clear();
      location.assign("/shared");
    },
  );
  const end = useChange((device: string) =>
    said(
      api.DELETE("/api/studios/{studio_id}/devices/{tablet_id}", {
        params: { path: { studio_id: studio.id, tablet_id: device } },
      }),
    ),
  );
  const problem = share.error ?? end.error;
  const isReady = name.trim() !== "" && !share.isPending;
  return (
    <Part>
      <h2>Shared devices</h2>
      <Quiet>
        On a tablet that several pupils use, each taps their name and their pictures, and hands it
        on. Sign in there as yourself, then share it: you are signed out on it.
      </Quiet>
      {studio.devices.length > 0 ? (
        <Lines aria-label="Shared devices">
          {studio.devices.map((one) => (
            <li key={one.id}>
              <span>
                <strong>{one.name}</strong>
                <small>since {day(one.since)}</small>
              </span>
              <Button
                aria-label={`Share no longer: ${one.name}`}
                onPress={() => end.mutate(one.id)}
              >
                Share no longer
              </Button>
            </li>
          ))}
        </Lines>
      ) : null}
      <Typed
        label="What this device is called"
        value={name}
        most={40}
        placeholder="Tablet 1"
        onType={setName}
        onDone={() => isReady && share.mutate(undefined)}
      />
      {problem ? <Notice>{problem.message}</Notice> : null}
      <Buttons>
        <Button isDisabled={!isReady} onPress={() => share.mutate(undefined)}>
          Share this device
        </Button>
      </Buttons>
    </Part>
  );
}

function Name({ studio }: Props) {
  const [name, setName] = useState(studio.name);
  const rename = useChange(() =>
    said(api.PATCH("/api/studios/{studio_id}", { ...pathOf(studio), body: { name } })),
  );
  const isOther = name.trim() !== "" && name.trim() !== studio.name;
  return (
    <Part>
      <h2>Name</h2>
      <Typed
        label="What the studio is called"
        value={name}
        most={40}
        onType={setName}
        onDone={() => isOther && rename.mutate(undefined)}
      />
      {rename.error ? <Notice>{rename.error.message}</Notice> : null}
      <Buttons>
        <Button isDisabled={!isOther} onPress={() => rename.mutate(undefined)}>
          Change the name
        </Button>
      </Buttons>
    </Part>
  );
}

function Leaving({ studio }: Props) {
  const navigate = useNavigate();
  const [asks, setAsks] = useState(false);
  const leave = useChange(
    () => said(api.POST("/api/studios/{studio_id}/leave", pathOf(studio))),
    () => {
      void queries.invalidateQueries({ queryKey: ["learner"] });
      navigate("/teach");
    },
  );
  const end = useChange(
    () => said(api.POST("/api/studios/{studio_id}/ending", pathOf(studio))),
    () => setAsks(false),
  );
  const problem = leave.error ?? end.error;
  return (
    <Part>
      <h2>Leave it, or end it</h2>
      <Quiet>A studio goes when a second person who teaches here agrees, or after a week.</Quiet>
      {problem ? <Notice>{problem.message}</Notice> : null}
      <Buttons>
        <Button onPress={() => leave.mutate(undefined)}>Leave the studio</Button>
        {studio.role === "owner" && !studio.ending ? (
          <Button onPress={() => setAsks(true)}>Erase the studio</Button>
        ) : null}
      </Buttons>
      <Dialog
        title={`Erase ${studio.name}?`}
        isOpen={asks}
        onClose={() => setAsks(false)}
        role="alertdialog"
      >
        <p>
          Groups, instruments and lists go with it. Pupils keep their own work, but for those who
          never came. Until then anybody who teaches here can keep it.
        </p>
        <Choices>
          <Button onPress={() => setAsks(false)}>No, leave it</Button>
          <Button weight="solid" onPress={() => end.mutate(undefined)}>
            Ask to erase it
          </Button>
        </Choices>
      </Dialog>
    </Part>
  );
}

function Audit({ studio }: Props) {
  const audit = useQuery({
    queryKey: ["studio", "audit", studio.id],
    queryFn: () => said(api.GET("/api/studios/{studio_id}/audit", pathOf(studio))),
  });
  if (audit.error) return <Notice>{audit.error.message}</Notice>;
  return (
    <Scroll>
      <Table aria-label="Who saw and changed what">
        <tbody>
          {audit.data?.map((one, at) => (
            <tr key={at}>
              <td>{dayAndTime(one.at)}</td>
              <td>
                <strong>{one.who ?? "Somebody who has left"}</strong> {one.says}
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
    </Scroll>
  );
}
