// Four pictures, one after the other: first what kind it is, then which.

import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Input, SearchField } from "react-aria-components";
import styled from "styled-components";
import { api, said, type Schemas } from "../../api/client";
import { Button } from "../../parts/button";
import { boxed } from "../../parts/layout";
import { Notice } from "../../parts/notice";
import { FieldLabel } from "../../parts/pick";
import { ink, phone } from "../../theme/theme";
import { Picture } from "./picture";

type One = Schemas["PassphrasePicture"];

const FOUR = 4;

const Slots = styled.ol`
  display: grid;
  grid-template-columns: repeat(${FOUR}, minmax(0, 6.5rem));
  gap: 0.5rem;
  li {
    display: grid;
    place-items: center;
    min-height: 5rem;
    border: 1.5px solid ${ink.edge};
    border-radius: 6px;
    background: ${ink.sheet};
    text-align: center;
    font-size: 0.9375rem;
    color: ${ink.quiet};
  }
`;
const Grid = styled.div`
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr));
  gap: 0.5rem;
  button {
    justify-content: center;
    text-align: center;
    min-height: 4.25rem;
    padding: 0.4rem 0.25rem;
    font-size: 0.9375rem;
    overflow-wrap: anywhere;
  }
  ${phone} {
    gap: 0.35rem;
    button {
      font-size: 0.8125rem;
    }
  }
`;
const Sought = styled(SearchField)`
  display: grid;
  gap: 0.2rem;
  max-width: 22rem;
`;
const Field = styled(Input)`
  ${boxed}
  width: 100%;
`;
const Row = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: space-between;
  gap: 0.5rem 1rem;
`;

const All = styled.div`
  display: grid;
  gap: 0.9rem;
  h2 {
    font-size: 1rem;
    margin-bottom: 0.3rem;
  }
`;

type Props = { chosen: One[]; onChoose: (chosen: One[]) => void };

/** All pictures on one page, found by their word: nobody has to guess where one is kept. */
export function Picker({ chosen, onChoose }: Props) {
  const groups = useQuery({
    queryKey: ["pictures"],
    queryFn: () => said(api.GET("/api/pictures")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const [sought, seek] = useState("");
  if (groups.error) return <Notice>{groups.error.message}</Notice>;
  if (!groups.data) return null;
  const isFull = chosen.length === FOUR;
  const word = sought.trim().toLowerCase();
  const found = groups.data
    .map((group) => ({
      ...group,
      pictures: group.pictures.filter((one) => one.words.toLowerCase().includes(word)),
    }))
    .filter((group) => group.pictures.length > 0);
  return (
    <>
      <Slots aria-label="Your four pictures">
        {Array.from({ length: FOUR }, (_, at) => {
          const one = chosen[at];
          return <li key={at}>{one ? <Picture {...one} /> : at + 1}</li>;
        })}
      </Slots>
      <Row>
        <p role="status">
          {chosen.length} of {FOUR} chosen
        </p>
        <Button isDisabled={chosen.length === 0} onPress={() => onChoose(chosen.slice(0, -1))}>
          Take one back
        </Button>
      </Row>
      {isFull ? null : (
        <>
          <Sought value={sought} onChange={seek}>
            <FieldLabel>Find a picture by its word</FieldLabel>
            <Field />
          </Sought>
          {found.length === 0 ? <p>No picture has this word.</p> : null}
          <All role="group" aria-label="All pictures">
            {found.map((group) => (
              <section key={group.name} aria-label={group.name}>
                <h2>{group.name}</h2>
                <Grid>
                  {group.pictures.map((one) => (
                    <Button
                      key={one.id}
                      onPress={() => {
                        onChoose([...chosen, one]);
                        seek("");
                      }}
                    >
                      <Picture {...one} />
                    </Button>
                  ))}
                </Grid>
              </section>
            ))}
          </All>
        </>
      )}
    </>
  );
}
