import { UnstyledButton, type ElementProps, type UnstyledButtonProps } from "@mantine/core";

type Props = UnstyledButtonProps & ElementProps<"button", keyof UnstyledButtonProps>;

/** A button that looks as its class says: a link in a sentence, a place in a list, a numeral. */
export function Press(props: Props) {
  return <UnstyledButton unstyled {...props} />;
}
