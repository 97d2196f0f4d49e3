// My work: keep it under a name, come back to it on another device, see where one is signed in.

import { useMutation, useQuery } from "@tanstack/react-query";
import { type ReactNode, useEffect, useState } from "react";
import { Link, useNavigate } from "react-router";
import styled from "styled-components";
import { api, queries, said, type Schemas } from "../../api/client";
import { Button } from "../../parts/button";
import { Choice } from "../../parts/choice";
import { Typed } from "../../parts/entry";
import { Choices, Table } from "../../parts/layout";
import { Notice } from "../../parts/notice";
import { Tick } from "../../parts/tick";
import { useLearner } from "../../parts/use-learner";
import { ink, phone, tablet } from "../../theme/theme";
import { capital, dayAndTime } from "../../words/formats";
import { Picker } from "./picker";
import { Picture } from "./picture";

type Kept = Schemas["KeptWork"];
type One = Schemas["PassphrasePicture"];

const Main = styled.main`
  display: grid;
  gap: 1.5rem;
  align-content: start;
  padding: 1.75rem 1.5rem;
  max-width: 72rem;
  ${phone} {
    padding: 1rem;
  }
`;
const Two = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.2fr);
  gap: 2.5rem;
  ${tablet} {
    grid-template-columns: minmax(0, 1fr);
  }
`;
const Part = styled.section`
  display: grid;
  gap: 1rem;
  align-content: start;
`;
const Quiet = styled.p`
  color: ${ink.quiet};
  max-width: 42rem;
`;
const Buttons = styled(Choices)`
  justify-content: flex-start;
  @media print {
    display: none;
  }
`;
const Slip = styled.section`
  display: grid;
  gap: 1.25rem;
  justify-items: start;
  padding: 1.5rem;
  border: 1.5px solid ${ink.text};
  border-radius: 8px;
  background: ${ink.sheet};
  max-width: 44rem;
  ol {
    display: grid;
    grid-template-columns: repeat(4, minmax(0, 1fr));
    gap: 1rem;
    width: 100%;
    font-size: 1.125rem;
    text-align: center;
  }
  strong {
    font-size: 1.5rem;
    letter-spacing: 0.06em;
    white-space: nowrap;
  }
  ${phone} {
    padding: 1rem;
    ol {
      gap: 0.25rem;
      font-size: 0.9375rem;
    }
    strong {
      font-size: 1.1875rem;
      letter-spacing: 0;
    }
  }
`;

/** Whose work this is, and what can be done about that. */
export function Account() {
  const learner = useLearner();
  const scanned = useScannedSlip();
  const [kept, setKept] = useState<Kept | null>(null);
  if (learner.error)
    return (
      <Main>
        <Notice>{learner.error.message}</Notice>
      </Main>
    );
  if (!learner.data) return null;
  const { who, name } = learner.data;
  if (kept) return <Told kept={kept} onDone={() => setKept(null)} />;
  if (who === "learner") return <Named name={name ?? ""} onKept={setKept} />;
  if (who === "demo")
    return (
      <Main>
        <h1>You look as the demo’s pupil</h1>
        <Quiet>
          Her work is everybody’s here. Go back to your own under Review, then keep that.
        </Quiet>
      </Main>
    );
  return (
    <Main>
      <h1>My work</h1>
      <Two>
        <Keep onKept={setKept} />
        <ComeBack hasWork={who === "guest"} scanned={scanned} />
      </Two>
      {who === "guest" ? <TakeAlong /> : null}
    </Main>
  );
}

function useDone() {
  // what was fetched is somebody else's now
  return () => void queries.resetQueries();
}

function Keep({ onKept }: { onKept: (kept: Kept) => void }) {
  const [name, setName] = useState("");
  const keep = useMutation({
    mutationFn: () => said(api.POST("/api/account", { body: { name } })),
    onSuccess: (kept) => {
      onKept(kept);
      void queries.invalidateQueries();
    },
  });
  const isReady = name.trim().length >= 2 && !keep.isPending;
  return (
    <Part aria-labelledby="keep">
      <h2 id="keep">Keep my work</h2>
      <Quiet>
        Choose a name. It need not be your own, and no address is asked for. You get four pictures
        that open your work on any device.
      </Quiet>
      <Typed
        label="A name for you"
        value={name}
        most={30}
        onType={setName}
        onDone={() => isReady && keep.mutate()}
      />
      {keep.error ? <Notice>{keep.error.message}</Notice> : null}
      <Buttons>
        <Button weight="solid" size="tall" isDisabled={!isReady} onPress={() => keep.mutate()}>
          Keep my work
        </Button>
      </Buttons>
    </Part>
  );
}

const WAYS = [
  { id: "pictures", words: "Name and pictures" },
  { id: "slip", words: "Code of a slip" },
] as const;

const SLIP = "#slip=";

/** The code that a camera has read from a slip; it does not stay in the address. */
function useScannedSlip(): string {
  const [code] = useState(() =>
    location.hash.startsWith(SLIP) ? decodeURIComponent(location.hash.slice(SLIP.length)) : "",
  );
  useEffect(() => {
    if (code) history.replaceState(history.state, "", location.pathname);
  }, [code]);
  return code;
}

type ComeBackProps = { hasWork: boolean; scanned: string };

function ComeBack({ hasWork, scanned }: ComeBackProps) {
  const [way, setWay] = useState<(typeof WAYS)[number]["id"]>(scanned ? "slip" : "pictures");
  const [name, setName] = useState("");
  const [pictures, setPictures] = useState<One[]>([]);
  const [code, setCode] = useState(scanned);
  const [bring, setBring] = useState(false);
  const navigate = useNavigate();
  const done = useDone();
  const come = useMutation({
    mutationFn: () =>
      said(
        api.POST("/api/sign-in", {
          body:
            way === "slip"
              ? { code, bring }
              : { name, pictures: pictures.map((one) => one.id), bring },
        }),
      ),
    onSuccess: () => {
      done();
      navigate("/");
    },
    onError: () => setPictures([]),
  });
  const isWhole = way === "slip" ? code.trim() !== "" : name.trim() !== "" && pictures.length === 4;
  const isReady = isWhole && !come.isPending;
  const open = () => {
    if (isReady) come.mutate();
  };
  return (
    <Part aria-labelledby="back">
      <h2 id="back">I have a name already</h2>
      <Choice label="How you come back" value={way} options={WAYS} onChoose={setWay} />
      {way === "slip" ? (
        <Typed
          label="The code on your slip"
          value={code}
          most={40}
          placeholder="four groups of four"
          onType={setCode}
          onDone={open}
        />
      ) : (
        <>
          <Typed label="Your name here" value={name} most={30} onType={setName} onDone={open} />
          <Picker chosen={pictures} onChoose={setPictures} />
        </>
      )}
      {hasWork ? (
        <Tick
          words="Take along what was done here"
          about="What this browser has done without a name becomes yours."
          isSelected={bring}
          onChange={setBring}
        />
      ) : null}
      {come.error ? <Notice>{come.error.message}</Notice> : null}
      <Buttons>
        <Button weight="solid" size="tall" isDisabled={!isReady} onPress={open}>
          Open my work
        </Button>
      </Buttons>
    </Part>
  );
}

type ToldProps = { kept: Kept; onDone: () => void };

/** What brings somebody back, shown this once, and as a slip to print. */
function Told({ kept, onDone }: ToldProps) {
  return (
    <Main>
      <h1>Your work is kept, {kept.name}</h1>
      <Quiet>
        Learn the four pictures in this order, or print the slip. They are shown only now.
      </Quiet>
      <Slip aria-label="Your slip">
        <p>Meldrin · {kept.name}</p>
        <ol>
          {kept.pictures.map((one) => (
            <li key={one.id}>
              <Picture {...one} size={64} />
            </li>
          ))}
        </ol>
        <p>
          Or this code: <br />
          <strong>{kept.code}</strong>
        </p>
        <p>Under “My work”, on any device.</p>
      </Slip>
      <Buttons>
        <Button onPress={() => print()}>Print the slip</Button>
        <Button weight="solid" onPress={onDone}>
          I have them
        </Button>
      </Buttons>
    </Main>
  );
}

type NamedProps = { name: string; onKept: (kept: Kept) => void };

function Named({ name, onKept }: NamedProps) {
  const navigate = useNavigate();
  const done = useDone();
  const renew = useMutation({
    mutationFn: () => said(api.POST("/api/account/keys")),
    onSuccess: onKept,
  });
  const leave = useMutation({
    mutationFn: () => said(api.POST("/api/sign-out")),
    onSuccess: () => {
      done();
      navigate("/");
    },
  });
  const problem = renew.error ?? leave.error;
  return (
    <Main>
      <h1>Signed in as {name}</h1>
      <Part>
        <Quiet>Your work opens on any device with your four pictures, or with your slip.</Quiet>
        {problem ? <Notice>{problem.message}</Notice> : null}
        <Buttons>
          <Button weight="solid" isDisabled={leave.isPending} onPress={() => leave.mutate()}>
            Sign out here
          </Button>
          <Button isDisabled={renew.isPending} onPress={() => renew.mutate()}>
            New pictures and a new slip
          </Button>
        </Buttons>
      </Part>
      <Places />
      <Looks />
      <TakeAlong />
    </Main>
  );
}

function Places() {
  const places = useQuery({
    queryKey: ["sign-ins"],
    queryFn: () => said(api.GET("/api/sign-ins")),
  });
  const end = useMutation({
    mutationFn: (id: string) =>
      said(api.DELETE("/api/sign-ins/{sign_in_id}", { params: { path: { sign_in_id: id } } })),
    onSuccess: () => void queries.invalidateQueries({ queryKey: ["sign-ins"] }),
  });
  if (!places.data) return null;
  return (
    <Part>
      {end.error ? <Notice>{end.error.message}</Notice> : null}
      <Table>
        <caption>Where you are signed in</caption>
        <thead>
          <tr>
            <th scope="col">Device</th>
            <th scope="col">Since</th>
            <th scope="col">Last here</th>
            <td />
          </tr>
        </thead>
        <tbody>
          {places.data.map((one) => (
            <tr key={one.id}>
              <td>{capital(one.device)}</td>
              <td>{dayAndTime(one.since)}</td>
              <td>{dayAndTime(one.seen)}</td>
              <td>{one.here ? "This one" : <End one={one} onEnd={() => end.mutate(one.id)} />}</td>
            </tr>
          ))}
        </tbody>
      </Table>
    </Part>
  );
}

/** What those who teach one have looked at and changed; nothing where nobody did. */
function Looks() {
  const looks = useQuery({ queryKey: ["looks"], queryFn: () => said(api.GET("/api/looks")) });
  if (!looks.data || looks.data.length === 0) return null;
  return (
    <Part>
      <Table>
        <caption>Who looked at your work</caption>
        <tbody>
          {looks.data.slice(0, MOST_LOOKS).map((one, at) => (
            <tr key={at}>
              <td>{dayAndTime(one.at)}</td>
              <td>
                <strong>{one.who ?? "Somebody who has left"}</strong> {one.says}
              </td>
            </tr>
          ))}
        </tbody>
      </Table>
    </Part>
  );
}

const MOST_LOOKS = 20;

/** What is kept is one's own: to be taken along, or erased. */
function TakeAlong() {
  return (
    <Part>
      <h2>All that is kept of you</h2>
      <Quiet>
        <a href="/api/learner/everything.zip" download>
          Save all of it
        </a>{" "}
        as files in one archive. <Link to="/review">Under Review</Link> it can all be erased.
      </Quiet>
    </Part>
  );
}

type EndProps = { one: Schemas["SignInPlace"]; onEnd: () => void };

function End({ one, onEnd }: EndProps): ReactNode {
  return (
    <Button aria-label={`Sign out the ${one.device} of ${dayAndTime(one.since)}`} onPress={onEnd}>
      Sign out
    </Button>
  );
}
