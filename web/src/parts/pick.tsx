import {
  Autocomplete,
  Button,
  Input,
  Label,
  ListBox,
  ListBoxItem,
  Popover,
  SearchField,
  Select,
  SelectValue,
} from "react-aria-components";
import styled from "styled-components";
import { ink } from "../theme/theme";
import { boxed } from "./layout";

const Field = styled(Select)`
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 0.2rem;
  min-width: 0;
`;
export const FieldLabel = styled(Label)`
  font-size: 0.9375rem;
  color: ${ink.quiet};
`;
const Opener = styled(Button)`
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 0.75rem;
  ${boxed}
  font-weight: 600;
  text-align: left;
  cursor: pointer;
  width: 100%;
  min-width: 0;
  &[data-hovered] {
    border-color: ${ink.text};
  }
  .react-aria-SelectValue {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .react-aria-SelectValue [slot="description"] {
    display: none;
  }
  svg {
    flex: none;
  }
`;
const Sheet = styled(Popover)`
  background: ${ink.sheet};
  border: 1.5px solid ${ink.text};
  border-radius: 6px;
  overflow: auto;
  min-width: var(--trigger-width);
  max-width: min(28rem, 94vw);
`;
const Items = styled(ListBox)`
  padding: 0.3rem;
  outline: none;
`;
const Item = styled(ListBoxItem)`
  display: grid;
  align-content: center;
  min-height: 44px;
  padding: 0.3rem 0.7rem;
  border-radius: 4px;
  cursor: pointer;
  font-weight: 600;
  &[data-focused],
  &[data-hovered] {
    background: ${ink.shade};
  }
  &[data-selected] {
    background: ${ink.solid};
    color: ${ink.onSolid};
  }
  small {
    font-size: 0.9375rem;
    font-weight: 400;
    opacity: 0.85;
  }
`;

const Narrow = styled(SearchField)`
  padding: 0.4rem 0.4rem 0;
  input {
    ${boxed}
    width: 100%;
  }
`;

/** Letters alone: notes are found whether or not their octaves and the spaces are typed. */
const plain = (text: string) => text.toLowerCase().replace(/[\s\d,]/g, "");

function fits(options: readonly PickOption<string>[], words: string, typed: string): boolean {
  const about = options.find((one) => one.words === words)?.about ?? "";
  return [words, about].some((text) => plain(text).includes(plain(typed)));
}

export type PickOption<T extends string> = {
  id: T;
  words: string;
  about?: string | undefined;
};

export type PickProps<T extends string> = {
  label: string;
  /** Null where none of the options is chosen. */
  value: T | null;
  options: readonly PickOption<T>[];
  onPick: (value: T) => void;
  className?: string;
  /** The label is only said, where the place tells as much. */
  isLabelUnseen?: boolean;
  /** What stands there while nothing is chosen. */
  prompt?: string;
  /** What stands in the field that narrows a long list, by its words or by what is said of them. */
  search?: string;
};

/** One of many, in a list that opens. */
export function Pick<T extends string>(props: PickProps<T>) {
  const {
    label,
    value,
    options,
    onPick,
    className,
    isLabelUnseen = false,
    prompt = "Choose",
    search,
  } = props;
  const items = (
    <Items renderEmptyState={() => "Nothing like that."}>
      {options.map((option) => (
        <Item key={option.id} id={option.id} textValue={option.words}>
          {option.words}
          {option.about ? <small slot="description">{option.about}</small> : null}
        </Item>
      ))}
    </Items>
  );
  return (
    <Field
      className={className ?? ""}
      selectedKey={value}
      onSelectionChange={(key) => {
        if (key !== null) onPick(key as T);
      }}
    >
      <FieldLabel className={isLabelUnseen ? "unseen" : ""}>{label}</FieldLabel>
      <Opener>
        <SelectValue>{({ selectedText }) => selectedText || prompt}</SelectValue>
        <svg width="14" height="8" viewBox="0 0 14 8" aria-hidden="true">
          <path d="M1,1 L7,7 L13,1" fill="none" stroke="currentColor" strokeWidth="2" />
        </svg>
      </Opener>
      <Sheet>
        {search ? (
          <Autocomplete filter={(text, typed) => fits(options, text, typed)}>
            <Narrow aria-label={search} autoFocus>
              <Input placeholder={search} />
            </Narrow>
            {items}
          </Autocomplete>
        ) : (
          items
        )}
      </Sheet>
    </Field>
  );
}
