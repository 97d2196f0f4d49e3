import type { ReactNode } from "react";
import { Button as AriaButton, type ButtonProps as AriaButtonProps } from "react-aria-components";
import styled from "styled-components";
import { ink } from "../theme/theme";
import { KeyHint } from "./key-hint";

export type ButtonProps = Omit<AriaButtonProps, "children" | "className" | "style"> & {
  children: ReactNode;
  hint?: string | undefined;
  weight?: "solid" | "plain" | "bare";
  size?: "tall" | "usual";
};

const Base = styled(AriaButton)<{ $weight: string; $size: string }>`
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 0.75rem;
  min-height: ${({ $size }) => ($size === "tall" ? "64px" : "44px")};
  padding: 0.4rem 0.9rem;
  border-radius: 6px;
  cursor: pointer;
  text-align: left;
  font: inherit;
  font-weight: 600;
  touch-action: manipulation;
  user-select: none;
  border: 1.5px solid ${({ $weight }) => ($weight === "bare" ? "transparent" : ink.edge)};
  background: ${({ $weight }) => ($weight === "solid" ? ink.solid : $weight === "bare" ? "transparent" : ink.sheet)};
  color: ${({ $weight }) => ($weight === "solid" ? ink.onSolid : ink.text)};
  &[data-hovered] {
    border-color: ${ink.text};
  }
  &[data-pressed] {
    transform: translateY(1px);
    border-color: ${ink.water};
  }
  &[data-disabled] {
    opacity: 0.5;
    cursor: default;
  }
`;

/** A press; with `hint` it shows the key that does the same. */
export function Button({ children, hint, weight = "plain", size = "usual", ...rest }: ButtonProps) {
  return (
    <Base preventFocusOnPress $weight={weight} $size={size} {...rest}>
      <span>{children}</span>
      {hint ? <KeyHint>{hint}</KeyHint> : null}
    </Base>
  );
}
