import { type Key, ToggleButton, ToggleButtonGroup } from "react-aria-components";
import styled from "styled-components";
import { ink } from "../theme/theme";
import { KeyHint } from "./key-hint";

const Group = styled(ToggleButtonGroup)`
  display: flex;
  flex-wrap: wrap;
  border: 1.5px solid ${ink.edge};
  border-radius: 6px;
  overflow: hidden;
  background: ${ink.sheet};
`;

const Item = styled(ToggleButton)`
  flex: 1;
  min-height: 44px;
  padding: 0.3rem 0.4rem;
  border: 0;
  background: transparent;
  color: ${ink.text};
  font: inherit;
  font-weight: 600;
  white-space: nowrap;
  cursor: pointer;
  user-select: none;
  touch-action: manipulation;
  display: flex;
  align-items: center;
  justify-content: center;
  gap: 0.4rem;
  & + & {
    border-left: 1.5px solid ${ink.edge};
  }
  &[data-hovered] {
    background: ${ink.shade};
  }
  &[data-selected] {
    background: ${ink.solid};
    color: ${ink.onSolid};
  }
  &[data-focus-visible] {
    outline-offset: -3px;
  }
  &[data-disabled] {
    cursor: default;
    opacity: 0.55;
  }
  &[data-disabled][data-selected] {
    opacity: 1;
  }
`;

export type ChoiceProps<T extends string> = {
  label: string;
  value: T | null;
  options: readonly { id: T; words: string; hint?: string | undefined }[];
  onChoose: (value: T) => void;
  isDisabled?: boolean;
};

/** One of a few, side by side. */
export function Choice<T extends string>(props: ChoiceProps<T>) {
  const selected: Key[] = props.value === null ? [] : [props.value];
  return (
    <Group
      aria-label={props.label}
      selectionMode="single"
      disallowEmptySelection={props.value !== null}
      isDisabled={props.isDisabled ?? false}
      selectedKeys={selected}
      onSelectionChange={(keys) => {
        for (const key of keys) props.onChoose(key as T);
      }}
    >
      {props.options.map((option) => (
        <Item key={option.id} id={option.id} preventFocusOnPress>
          {option.words}
          {option.hint ? <KeyHint>{option.hint}</KeyHint> : null}
        </Item>
      ))}
    </Group>
  );
}
