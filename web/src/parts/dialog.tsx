import { useEffect, type ReactNode } from "react";
import { Dialog as AriaDialog, Heading, Modal, ModalOverlay } from "react-aria-components";
import styled from "styled-components";
import { ink } from "../theme/theme";

const Veil = styled(ModalOverlay)`
  position: fixed;
  inset: 0;
  display: grid;
  place-items: center;
  padding: 1rem;
  z-index: 10;
  background: rgb(8 20 25 / 0.55);
`;
const Sheet = styled(Modal)<{ $wide: boolean }>`
  width: min(${({ $wide }) => ($wide ? "54rem" : "36rem")}, 100%);
  max-height: 100%;
  overflow: auto;
  border-radius: 8px;
  background: ${ink.paper};
  border: 1.5px solid ${ink.edge};
`;
const Body = styled(AriaDialog)`
  padding: 1.5rem;
  display: grid;
  gap: 1rem;
  & > h2 {
    font-size: 1.375rem;
  }
`;

export type DialogProps = {
  title: string;
  isOpen: boolean;
  onClose: () => void;
  children: ReactNode;
  role?: "dialog" | "alertdialog";
  wide?: boolean;
};

// What was pressed last, by finger, mouse or key: a button that is pressed by a finger does not take
// the focus by itself, so a sheet would not know what opened it.
let pressed: Element | null = null;
addEventListener(
  "pointerdown",
  (event) => {
    pressed = event.target instanceof Element ? event.target.closest("button, a") : null;
  },
  true,
);
addEventListener(
  "keydown",
  () => {
    pressed = document.activeElement;
  },
  true,
);
const BACK_MS = 60; // after what the sheet itself does when it goes

/** A sheet that closes gives the focus back to what opened it, or to the page. */
function useFocusBack(isOpen: boolean): void {
  useEffect(() => {
    if (!isOpen) return;
    const opener = pressed;
    return () => {
      setTimeout(() => {
        if (document.querySelector("[role=dialog], [role=alertdialog]")) return;
        const back = opener?.isConnected ? opener : document.querySelector("main");
        if (back instanceof HTMLElement) back.focus();
      }, BACK_MS);
    };
  }, [isOpen]);
}

/** A sheet over the page; Escape or a press outside closes it. */
export function Dialog({
  title,
  isOpen,
  onClose,
  children,
  role = "dialog",
  wide = false,
}: DialogProps) {
  useFocusBack(isOpen);
  return (
    <Veil isOpen={isOpen} onOpenChange={(open) => open || onClose()} isDismissable>
      <Sheet $wide={wide}>
        <Body role={role}>
          <Heading slot="title" level={2}>
            {title}
          </Heading>
          {children}
        </Body>
      </Sheet>
    </Veil>
  );
}
