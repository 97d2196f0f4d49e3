// Open an exercise or a round by the code on the wall.

import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import styled from "styled-components";
import { api, said } from "../../api/client";
import { Button } from "../../parts/button";
import { Typed } from "../../parts/entry";
import { Notice } from "../../parts/notice";
import { phone } from "../../theme/theme";

const Main = styled.main`
  display: grid;
  gap: 1.25rem;
  align-content: start;
  justify-items: start;
  padding: 1.75rem 1.5rem;
  max-width: 40rem;
  width: 100%;
  margin: 0 auto;
  & > div {
    width: 100%;
  }
  ${phone} {
    padding: 1rem;
  }
`;

export function Do() {
  const [code, setCode] = useState("");
  const navigate = useNavigate();
  const letters = code.replace(/[^a-zA-Z0-9]/g, "").toUpperCase();
  const look = useMutation({
    mutationFn: () => said(api.GET("/api/codes/{code}", { params: { path: { code: letters } } })),
    onSuccess: ({ kind }) => navigate(kind === "round" ? `/round/${letters}` : `/set/${letters}`),
  });
  const isWhole = letters.length === 8;
  const open = () => {
    if (isWhole && !look.isPending) look.mutate();
  };
  return (
    <Main>
      <h1>Type the code on the wall</h1>
      <Typed label="The code" value={code} most={12} onType={setCode} onDone={open} />
      {look.error ? <Notice>{look.error.message}</Notice> : null}
      <Button weight="solid" size="tall" isDisabled={!isWhole} onPress={open}>
        Open it
      </Button>
    </Main>
  );
}
