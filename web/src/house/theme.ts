import { useMediaQuery } from "@mantine/hooks";
import { useSettings } from "./settings";

/** Whether the pages look like a blueprint now: by choice, or because the system is dark. */
export function useBlueprint(): boolean {
  const { theme } = useSettings();
  const dark = useMediaQuery("(prefers-color-scheme: dark)", undefined, { getInitialValueInEffect: false });
  return theme === "blueprint" || (theme === "system" && !!dark);
}
