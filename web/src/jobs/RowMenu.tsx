import { Menu } from "@mantine/core";
import { useEffect, useRef, type ReactElement } from "react";
import type { RowDoingsProps } from "./RowDoings";

interface Props extends RowDoingsProps {
  close: () => void;
  /** The button that it hangs on. */
  children: ReactElement;
}

/** The menu of a job, open while it is rendered. */
export function RowMenu({ row, listing, rename, remove, close, children }: Props) {
  const { wanted } = listing.wish;
  const away = wanted === "bin" || wanted === "archive";
  const doing = useRef<(() => void) | null>(null);
  // Done when the menu has gone: it gives the focus back first, and a field that is opened would lose it again.
  useEffect(() => () => void setTimeout(() => doing.current?.()), []);
  const item = (says: string, act: () => unknown) => (
    <Menu.Item onClick={() => void (doing.current = () => void act())}>{says}</Menu.Item>
  );
  return (
    <Menu opened onClose={close} position="bottom-end" width={190} transitionProps={{ duration: 0 }}>
      <Menu.Target>{children}</Menu.Target>
      <Menu.Dropdown>
        {!away && item("Rename", rename)}
        {!away && item("Copy", () => listing.copy([row]))}
        {!away && item("Archive", () => listing.put([row], "archive"))}
        {away && item("Put back", () => listing.put([row], "list"))}
        {wanted !== "bin" && item("Into the bin", () => listing.put([row], "bin"))}
        {wanted === "bin" && item("Remove for good", remove)}
      </Menu.Dropdown>
    </Menu>
  );
}
