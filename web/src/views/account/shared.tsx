// A device that pupils share: tap your name, then your four pictures, and hand it on afterwards.

import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import styled from "styled-components";
import { api, queries, said, type Schemas } from "../../api/client";
import { Button } from "../../parts/button";
import { Notice } from "../../parts/notice";
import { ink, phone } from "../../theme/theme";
import { Picker } from "./picker";

const Main = styled.main`
  display: grid;
  gap: 1.25rem;
  align-content: start;
  padding: 1.75rem 1.5rem;
  max-width: 60rem;
  width: 100%;
  margin: 0 auto;
  p {
    color: ${ink.quiet};
  }
  ${phone} {
    padding: 1rem;
  }
`;
const Names = styled.div`
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(10rem, 1fr));
  gap: 0.6rem;
  button {
    min-height: 64px;
    font-size: 1.125rem;
  }
`;

export function Shared() {
  const device = useQuery({
    queryKey: ["shared-device"],
    queryFn: () => said(api.GET("/api/shared-device")),
  });
  const [who, setWho] = useState<Schemas["SharedPupil"] | null>(null);
  if (device.error)
    return (
      <Main>
        <Notice>{device.error.message}</Notice>
      </Main>
    );
  if (!device.data) return <Main />;
  if (device.data.studio === null)
    return (
      <Main>
        <h1>This device is not shared</h1>
        <p>A teacher shares it: sign in here, then open Teach, Studio, Shared devices.</p>
        <p>
          <Link to="/account">Sign in under “My work”</Link>
        </p>
      </Main>
    );
  if (who) return <Pictures who={who} onBack={() => setWho(null)} />;
  return (
    <Main>
      <h1>Who are you?</h1>
      <p>{device.data.studio}. Tap your name, then your four pictures.</p>
      <Names role="group" aria-label="Pupils">
        {device.data.pupils.map((one) => (
          <Button key={one.id} onPress={() => setWho(one)}>
            {one.name}
          </Button>
        ))}
      </Names>
      {device.data.pupils.length === 0 ? <p>No pupil of this studio has a sign-in yet.</p> : null}
    </Main>
  );
}

type PicturesProps = { who: Schemas["SharedPupil"]; onBack: () => void };

function Pictures({ who, onBack }: PicturesProps) {
  const [chosen, setChosen] = useState<Schemas["PassphrasePicture"][]>([]);
  const navigate = useNavigate();
  const come = useMutation({
    mutationFn: (pictures: string[]) =>
      said(api.POST("/api/shared-device/sign-in", { body: { pupil: who.id, pictures } })),
    onSuccess: () => {
      void queries.resetQueries();
      navigate("/");
    },
    onError: () => setChosen([]),
  });
  const choose = (next: Schemas["PassphrasePicture"][]) => {
    setChosen(next);
    if (next.length === 4) come.mutate(next.map((one) => one.id));
  };
  return (
    <Main>
      <h1>{who.name}, which are your pictures?</h1>
      {come.error ? <Notice>{come.error.message}</Notice> : null}
      <Picker chosen={chosen} onChoose={choose} />
      <Names>
        <Button onPress={onBack}>That is not me</Button>
      </Names>
    </Main>
  );
}
