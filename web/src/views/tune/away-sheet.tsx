import styled from "styled-components";
import { Button } from "../../parts/button";
import { Dialog } from "../../parts/dialog";

const Rows = styled.div`
  display: grid;
  gap: 0.5rem;
`;
const WAITS = [
  { seconds: 600, words: "In ten minutes" },
  { seconds: 86_400, words: "Tomorrow" },
  { seconds: 604_800, words: "In a week" },
];

export type AwaySheetProps = {
  isOpen: boolean;
  onClose: () => void;
  onWait: (seconds: number) => void;
};

/** Leave the instrument for a while: strings creep and wood follows the air. */
export function AwaySheet({ isOpen, onClose, onWait }: AwaySheetProps) {
  return (
    <Dialog title="Come back later" isOpen={isOpen} onClose={onClose}>
      <p>
        For the instrument the time goes by at once. New strings sink, and wood follows the air.
      </p>
      <Rows>
        {WAITS.map(({ seconds, words }) => (
          <Button key={seconds} onPress={() => onWait(seconds)}>
            {words}
          </Button>
        ))}
        <Button weight="bare" onPress={onClose}>
          Stay here
        </Button>
      </Rows>
    </Dialog>
  );
}
