// Open an exercise by the code on the wall.

import { useState } from "react";
import { useNavigate } from "react-router";
import styled from "styled-components";
import { Button } from "../../parts/button";
import { Typed } from "../../parts/entry";
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
  const isWhole = letters.length === 8;
  const open = () => {
    if (isWhole) navigate(`/set/${letters}`);
  };
  return (
    <Main>
      <h1>Type the code on the wall</h1>
      <Typed label="The code" value={code} most={12} onType={setCode} onDone={open} />
      <Button weight="solid" size="tall" isDisabled={!isWhole} onPress={open}>
        Open the exercise
      </Button>
    </Main>
  );
}
