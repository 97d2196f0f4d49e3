// Four pictures, one after the other: first what kind it is, then which.

import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import styled from "styled-components";
import { api, said, type Schemas } from "../../api/client";
import { Button } from "../../parts/button";
import { Notice } from "../../parts/notice";
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
const Row = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: space-between;
  gap: 0.5rem 1rem;
`;

type Props = { chosen: One[]; onChoose: (chosen: One[]) => void };

export function Picker({ chosen, onChoose }: Props) {
  const groups = useQuery({
    queryKey: ["pictures"],
    queryFn: () => said(api.GET("/api/pictures")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const [open, setOpen] = useState<string | null>(null);
  const grid = useRef<HTMLDivElement>(null);
  const moved = useRef(false);
  // what replaces a pressed button takes the focus, so that keys go on working
  useEffect(() => {
    if (moved.current) grid.current?.querySelector("button")?.focus();
    moved.current = true;
  }, [open]);
  if (groups.error) return <Notice>{groups.error.message}</Notice>;
  if (!groups.data) return null;
  const group = groups.data.find((one) => one.name === open);
  const isFull = chosen.length === FOUR;
  const status = `${chosen.length} of ${FOUR} chosen`;
  return (
    <>
      <Slots aria-label="Your four pictures">
        {Array.from({ length: FOUR }, (_, at) => {
          const one = chosen[at];
          return <li key={at}>{one ? <Picture {...one} /> : at + 1}</li>;
        })}
      </Slots>
      <Row>
        <p role="status">{group ? `${status}. ${group.name}` : status}</p>
        {group ? (
          <Button onPress={() => setOpen(null)}>Other kinds</Button>
        ) : (
          <Button isDisabled={chosen.length === 0} onPress={() => onChoose(chosen.slice(0, -1))}>
            Take one back
          </Button>
        )}
      </Row>
      {isFull ? null : (
        <Grid ref={grid} role="group" aria-label={group?.name ?? "Kinds of pictures"}>
          {group
            ? group.pictures.map((one) => (
                <Button
                  key={one.id}
                  onPress={() => {
                    onChoose([...chosen, one]);
                    setOpen(null);
                  }}
                >
                  <Picture {...one} />
                </Button>
              ))
            : groups.data.map((kind) => (
                <Button key={kind.name} onPress={() => setOpen(kind.name)}>
                  <Picture id={kind.pictures[0]?.id ?? ""} words={kind.name} />
                </Button>
              ))}
        </Grid>
      )}
    </>
  );
}
