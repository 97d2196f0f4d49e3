import { useState } from "react";
import { Button as AriaButton } from "react-aria-components";
import styled from "styled-components";
import { Button } from "../../parts/button";
import { Dialog } from "../../parts/dialog";
import { ink } from "../../theme/theme";
import type { Command } from "./commands";
import { keyOf, keyWords } from "./keys";

const List = styled.ul`
  columns: 3;
  column-gap: 2rem;
  li {
    display: flex;
    align-items: center;
    justify-content: space-between;
    gap: 0.75rem;
    border-bottom: 1px solid ${ink.line};
    break-inside: avoid;
  }
  @media (max-width: 820px) {
    columns: 2;
  }
  @media (max-width: 560px) {
    columns: 1;
  }
`;
const Key = styled(AriaButton)`
  min-width: 3.2rem;
  min-height: 44px;
  border: 1px solid ${ink.edge};
  border-radius: 5px;
  margin: 2px 0;
  background: ${ink.sheet};
  color: inherit;
  font: inherit;
  font-weight: 600;
  cursor: pointer;
`;
const Row = styled.div`
  display: flex;
  gap: 0.75rem;
  justify-content: flex-end;
`;

export type KeySheetProps = {
  commands: Command[];
  isOpen: boolean;
  onClose: () => void;
  onAssign: (id: string, key: string) => void;
  onReset: () => void;
};

/** All keys; press one here, then the key it should be instead. */
export function KeySheet({ commands, isOpen, onClose, onAssign, onReset }: KeySheetProps) {
  const [changing, setChanging] = useState<string | null>(null);
  return (
    <Dialog wide title="Keys" isOpen={isOpen} onClose={onClose}>
      <p>
        With Shift the turns are coarse. To change a key, press it in this list, then the new one.
      </p>
      <List>
        {commands
          .filter((one) => one.fits ?? true)
          .map((command) => (
            <li key={command.id}>
              <span>{command.words}</span>
              <Key
                aria-label={`${command.words}: ${keyWords(command.key)}, change`}
                onPress={() => setChanging(command.id)}
                onBlur={() => setChanging(null)}
                onKeyDown={(event) => {
                  if (changing !== command.id) return event.continuePropagation();
                  if (event.key === "Tab" || event.key === "Escape" || event.key === "Shift")
                    return;
                  onAssign(command.id, keyOf(event));
                  setChanging(null);
                }}
              >
                {changing === command.id ? "press a key" : keyWords(command.key)}
              </Key>
            </li>
          ))}
      </List>
      <Row>
        <Button onPress={onReset}>Back to the first keys</Button>
        <Button weight="solid" onPress={onClose}>
          Done
        </Button>
      </Row>
    </Dialog>
  );
}
