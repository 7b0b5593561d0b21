import { Radio } from "@mantine/core";
import type { ReactNode } from "react";
import { radioKeys } from "./radioKeys";

interface Props {
  group: string;
  checked: boolean;
  choose: () => void;
  children: ReactNode;
}

/** The radio of one row of a table, where choosing does something that takes its time. */
export function RowRadio({ group, checked, choose, children }: Props) {
  return <Radio name={group} label={children} checked={checked} onChange={choose} onKeyDown={radioKeys} />;
}
