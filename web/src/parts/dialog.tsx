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

// A button that is pressed by a finger does not take the focus by itself in every browser. It is
// given it here, before the button does its work, so that a sheet knows what opened it.
addEventListener(
  "pointerup",
  (event) => {
    const button = event.target instanceof Element ? event.target.closest("button, a") : null;
    if (button instanceof HTMLElement) button.focus({ preventScroll: true });
  },
  true,
);
const BACK_MS = 60; // after the sheet itself has given the focus back to what opened it

/** The page takes the focus when a sheet closes and what opened it is gone. */
function useFocusOnPage(isOpen: boolean): void {
  useEffect(() => {
    if (!isOpen) return;
    return () => {
      setTimeout(() => {
        if (document.activeElement === document.body) document.querySelector("main")?.focus();
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
  useFocusOnPage(isOpen);
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
