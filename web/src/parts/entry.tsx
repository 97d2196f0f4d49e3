import { useEffect, useState } from "react";
import { Input, NumberField, TextField } from "react-aria-components";
import styled from "styled-components";
import { ink } from "../theme/theme";
import { boxed } from "./layout";
import { FieldLabel } from "./pick";

const Box = styled(Input)`
  ${boxed}
  width: 100%;
  font-weight: 600;
  &[data-hovered] {
    border-color: ${ink.text};
  }
`;
/** Let a press beside a field end what is typed in it: buttons take no focus, so it would go on. */
function endsBeside({ target: field }: { target: HTMLInputElement }) {
  const press = ({ target }: PointerEvent) => {
    if (target !== field) field.blur();
  };
  document.addEventListener("pointerdown", press, { capture: true });
  field.addEventListener(
    "blur",
    () => document.removeEventListener("pointerdown", press, { capture: true }),
    { once: true },
  );
}

const Words = styled(TextField)`
  display: grid;
  gap: 0.2rem;
`;
const Figure = styled(NumberField)`
  display: grid;
  gap: 0.2rem;
  input {
    max-width: 9rem;
  }
`;

type EntryProps = {
  label: string;
  value: string;
  placeholder?: string;
  /** How many characters at most. */
  most?: number;
  onEnter: (value: string) => void;
};

/** A line of text; told on once it rests, on Enter, and when it is left. */
export function Entry({ label, value, placeholder, most, onEnter }: EntryProps) {
  const [typed, setTyped] = useState(value);
  useEffect(() => {
    if (typed === value) return;
    const rest = setTimeout(() => onEnter(typed), 500);
    return () => clearTimeout(rest);
  }, [typed, value, onEnter]);
  return (
    <Words
      value={typed}
      {...(most ? { maxLength: most } : {})}
      onChange={setTyped}
      onBlur={() => onEnter(typed)}
    >
      <FieldLabel>{label}</FieldLabel>
      <Box
        {...(placeholder ? { placeholder } : {})}
        onFocus={endsBeside}
        onKeyDown={(event) => {
          if (event.key === "Enter") onEnter(typed);
        }}
      />
    </Words>
  );
}

type TypedProps = {
  label: string;
  value: string;
  placeholder?: string;
  most?: number;
  onType: (value: string) => void;
  /** What Enter does. */
  onDone: () => void;
};

/** A line of text that is told on with every letter. */
export function Typed({ label, value, placeholder, most, onType, onDone }: TypedProps) {
  return (
    <Words value={value} {...(most ? { maxLength: most } : {})} onChange={onType}>
      <FieldLabel>{label}</FieldLabel>
      <Box
        {...(placeholder ? { placeholder } : {})}
        autoComplete="off"
        onKeyDown={(event) => {
          if (event.key === "Enter") onDone();
        }}
      />
    </Words>
  );
}

type AmountProps = {
  label: string;
  value: number | null;
  low: number;
  high: number;
  step?: number;
  /** The one to begin with. */
  isFirst?: boolean;
  onEnter: (value: number) => void;
  /** What emptying it does; without that it takes its number back. */
  onEmpty?: () => void;
};

/** A number within limits; arrow keys change it by a step. */
export function Amount(props: AmountProps) {
  const { label, value, low, high, step = 1, isFirst = false, onEnter, onEmpty } = props;
  return (
    <Figure
      autoFocus={isFirst}
      value={value ?? NaN}
      minValue={low}
      maxValue={high}
      step={step}
      formatOptions={{ maximumFractionDigits: 3, useGrouping: false }}
      onChange={(entered) => {
        if (Number.isFinite(entered)) onEnter(entered);
        else onEmpty?.();
      }}
    >
      <FieldLabel>{label}</FieldLabel>
      <Box
        onFocus={(event) => {
          event.target.select();
          endsBeside(event);
        }}
      />
    </Figure>
  );
}
