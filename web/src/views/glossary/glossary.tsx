import { useEffect } from "react";
import { useLocation } from "react-router";
import styled from "styled-components";
import { WordPart } from "../../parts/word-part";
import { ink, phone } from "../../theme/theme";
import { names } from "../../words/names";
import { InstrumentParts } from "./instrument-parts";

const Main = styled.main`
  padding: 1.5rem 1.5rem 3rem;
  display: grid;
  gap: 1.5rem;
  max-width: 76rem;
  width: 100%;
  margin: 0 auto;
  align-content: start;
  ${phone} {
    padding: 1rem 1rem 2rem;
  }
`;
const Words = styled.div`
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(100%, 20rem), 1fr));
  gap: 0 2.5rem;
  & > div {
    padding: 1rem 0 1.25rem;
    border-top: 1px solid ${ink.line};
    align-content: start;
  }
  & > div:target {
    border-top: 3px solid ${ink.water};
  }
`;

/** The words of the job: a sentence each, and a sound or a picture. */
export function Glossary() {
  const { hash } = useLocation();
  useEffect(() => {
    if (hash) document.getElementById(hash.slice(1))?.scrollIntoView({ block: "center" });
  }, [hash]);
  return (
    <Main>
      <h1>Words</h1>
      <Words>
        {names().words.map((word) => (
          <WordPart key={word.id} word={word} />
        ))}
      </Words>
      <InstrumentParts />
    </Main>
  );
}
