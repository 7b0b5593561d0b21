import { NativeSelect } from "@mantine/core";
import type { ChoiceProps } from "./Choice";

/** One of several, from the list that the browser has for it: for pages that are to be there at once. */
export function NativeChoice<Key extends string>({ label, value, options, choose, width }: ChoiceProps<Key>) {
  return (
    <NativeSelect
      aria-label={label}
      data={options.map(([key, says]) => ({ value: key, label: says }))}
      value={value}
      w={width}
      onChange={(event) => choose(event.currentTarget.value as Key)}
    />
  );
}
