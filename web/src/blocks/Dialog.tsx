import { Modal } from "@mantine/core";
import { useEffect, useState, type ReactNode } from "react";

interface Props {
  title: ReactNode;
  close: () => void;
  size?: number | string;
  closeButton?: boolean;
  classNames?: Record<string, string | undefined>;
  children: ReactNode;
}

/** A dialog, there while it is rendered; closed, the focus goes back to where it was, and never falls to the page. */
export function Dialog({ title, close, size, closeButton = true, classNames, children }: Props) {
  const [before] = useState(() => document.activeElement as HTMLElement | null);
  useEffect(
    () => () => {
      // After what took the dialog's place, if anything did, and only if the focus was lost.
      setTimeout(() => {
        if (document.activeElement !== document.body) return;
        if (before?.isConnected) before.focus();
        else document.querySelector<HTMLElement>("main a, main button, main input")?.focus();
      });
    },
    [before],
  );
  return (
    <Modal
      opened
      onClose={close}
      title={title}
      size={size}
      classNames={classNames}
      withCloseButton={closeButton}
      returnFocus={false}
    >
      {children}
    </Modal>
  );
}
