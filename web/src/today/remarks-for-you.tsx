// What a teacher has remarked, on the first page: to be heard in its place, and done again.

import { Link } from "react-router";
import styled from "styled-components";
import { Button } from "../parts/button";
import { Choices } from "../parts/layout";
import { Notice } from "../parts/notice";
import { Strip } from "./strip";
import { useAgain, useRemarksToAnswer } from "./use-remarks";

const All = styled.div`
  display: grid;
  gap: 0.75rem;
`;
const MOST = 2;

/** The newest remarks that wait for an answer; nothing where none do. */
export function RemarksForYou() {
  const remarks = useRemarksToAnswer();
  const again = useAgain();
  const found = (remarks.data ?? []).slice(0, MOST);
  if (found.length === 0) return null;
  return (
    <All>
      {found.map((one) => (
        <Strip key={one.id} aria-label={`A remark by ${one.by}`}>
          <div>
            <strong>“{one.text}”</strong>
            <p>
              {one.by} remarked this.{" "}
              <Link to={`/review/${one.attempt}/replay?at=${one.at_s}`}>Hear it in its place</Link>
            </p>
          </div>
          <Choices>
            <Button
              weight="solid"
              isDisabled={again.isPending}
              onPress={() => again.mutate(one.id)}
            >
              {one.answer ? "Go on with this spot" : "Do this spot again"}
            </Button>
          </Choices>
          {again.error ? <Notice>{again.error.message}</Notice> : null}
        </Strip>
      ))}
    </All>
  );
}
