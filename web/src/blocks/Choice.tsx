import { SegmentedControl, Select } from "@mantine/core";

export type Option<Key extends string> = readonly [key: Key, says: string];

interface Props<Key extends string> {
  label: string;
  value: Key;
  options: readonly Option<Key>[];
  choose: (key: Key) => void;
  width?: number | string;
}

const dataOf = <Key extends string>(options: readonly Option<Key>[]) => options.map(([value, label]) => ({ value, label }));

/** One of several, from a list that opens; with more than a dozen it can be searched by typing. */
export function Choice<Key extends string>({ label, value, options, choose, width }: Props<Key>) {
  return <Select aria-label={label} data={dataOf(options)} value={value} w={width} searchable={options.length > 12} onChange={(key) => key && choose(key as Key)} />;
}

/** One of a few, all of them seen; arrow keys go from one to the next. */
export function Segments<Key extends string>({ label, value, options, choose, width }: Props<Key>) {
  return <SegmentedControl aria-label={label} data={dataOf(options)} value={value} w={width} onChange={(key) => choose(key as Key)} />;
}
