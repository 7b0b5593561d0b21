import { settingsNow } from "./settings";

const DATES = {
  iso: { locale: "sv-SE", dateStyle: "short" },
  day: { locale: "en-GB", dateStyle: "medium" },
  month: { locale: "en-US", dateStyle: "medium" },
} as const;

/** A day and its time, as it is settled. */
export function dateAndTime(at: string): string {
  const { locale, dateStyle } = DATES[settingsNow().dates];
  return new Date(at).toLocaleString(locale, { dateStyle, timeStyle: "short" });
}
