import { SegmentedControl, Select } from "@mantine/core";
import { radioKeys } from "./radioKeys";
import { useEffect, useState } from "react";

export type Option<Key extends string> = readonly [key: Key, says: string];

/** What is to be told of one of several that is chosen. */
export interface ChoiceProps<Key extends string> {
  label: string;
  value: Key;
  options: readonly Option<Key>[];
  choose: (key: Key) => void;
  width?: number | string;
}

const FEW = 3;

const dataOf = <Key extends string>(options: readonly Option<Key>[]) =>
  options.map(([value, label]) => ({ value, label }));

/** One of several, from a list that opens. Where there are more than a few, typing finds one, and Tab or Enter takes it. */
export function Choice<Key extends string>({ label, value, options, choose, width }: ChoiceProps<Key>) {
  const says = options.find(([key]) => key === value)?.[1] ?? "";
  const [typed, type] = useState(says);
  useEffect(() => type(says), [says]);
  const exact =
    typed === says ? undefined : options.find(([, one]) => one.toLowerCase().includes(typed.trim().toLowerCase()));
  const search =
    options.length > FEW
      ? { searchable: true, selectFirstOptionOnChange: true, searchValue: typed, onSearchChange: type }
      : {};
  return (
    <Select
      aria-label={label}
      data={dataOf(options)}
      value={value}
      w={width}
      {...search}
      onFocus={(event) => event.currentTarget.select()}
      onKeyDown={(event) => event.key === "Tab" && exact && choose(exact[0])}
      onChange={(key) => key && choose(key as Key)}
    />
  );
}

interface SegmentsProps<Key extends string> extends ChoiceProps<Key> {
  /** Whether choosing changes the job, so that it waits for Space or Enter. */
  acts?: boolean;
}

/** One of a few, all of them seen; arrow keys go from one to the next. */
export function Segments<Key extends string>({ label, value, options, choose, width, acts }: SegmentsProps<Key>) {
  return (
    <SegmentedControl
      onKeyDownCapture={acts ? radioKeys : undefined}
      aria-label={label}
      data={dataOf(options)}
      value={value}
      w={width}
      onChange={(key) => choose(key as Key)}
    />
  );
}
