// After a string is in tune: the music it was tuned for, as it was and as it is, and what comes next.

import styled from "styled-components";
import { BeforeAndNow } from "../../parts/before-and-now";
import { Button } from "../../parts/button";
import { ink, phone } from "../../theme/theme";

const Room = styled.div`
  display: grid;
  align-content: center;
  gap: 1rem;
  height: 100%;
  padding: 0 4rem;
  border-top: 2px solid ${ink.water};
  background: ${ink.depth};
  ${phone} {
    padding: 0.5rem 0.9rem;
    gap: 0.6rem;
  }
`;
const Row = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 0.75rem;
  button {
    min-height: 60px;
    font-size: 1.1875rem;
    justify-content: center;
  }
  ${phone} {
    gap: 0.5rem;
    button {
      flex: 1 1 100%;
      min-height: 52px;
      font-size: 1.0625rem;
    }
  }
`;
const Which = styled.p`
  min-height: 1.3em;
  font-size: 1.75rem;
  font-weight: 700;
`;

export type AfterItProps = {
  attempt: string;
  /** Silences what still rings. */
  hush: () => void;
  next: number | null;
  nextLabel: string;
  onOn: (next: number | null) => void;
};

/** The music before and now, each piece at one press; then one more string, or enough. */
export function AfterIt({ attempt, hush, next, nextLabel, onOn }: AfterItProps) {
  return (
    <Room>
      <BeforeAndNow attempt={attempt} hush={hush}>
        {(which, presses) => (
          <>
            <Which role="status">{which || "Hear what it is for."}</Which>
            <Row>{presses}</Row>
          </>
        )}
      </BeforeAndNow>
      <Row>
        {next === null ? null : (
          <Button weight="solid" onPress={() => onOn(next)}>
            One more: {nextLabel}
          </Button>
        )}
        <Button onPress={() => onOn(null)}>See how it went</Button>
      </Row>
    </Room>
  );
}
