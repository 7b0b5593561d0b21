/** The colours of the theme in force, for what is drawn without styles: the bench. */
export type Ink =
  | "--paper"
  | "--ink"
  | "--stop"
  | "--settled-bright"
  | "--rule"
  | "--rule-fine"
  | "--rule-strong"
  | "--rule-worn"
  | "--rule-faint"
  | "--body";

/** A colour as `#rrggbb`. Pages are made anew under another theme, so that this may be kept by who asks. */
export function ink(name: Ink | `--body-${number}`): string {
  return getComputedStyle(document.documentElement).getPropertyValue(name).trim();
}
