import { setupI18n } from "@lingui/core";
import en from "virtual:messages/en";
import translated from "virtual:messages/translated";
import { language, spoken } from "./language";

export { language };
const i18n = setupI18n({
  locale: spoken,
  locales: [language],
  messages: { [spoken]: spoken === "en" ? en : {} },
  missing: (_, key) => key,
});

/** Have the words that are to be said, before anything says them. */
export async function ready(): Promise<void> {
  const ours = await translated[spoken]?.();
  if (ours) i18n.load(spoken, ours.default);
}

/** Take in messages that come later, with the part of the console that needs them; those of other languages come all at once. */
export function take(messages: typeof en): void {
  if (spoken === "en") i18n.load("en", messages);
}

/** A message of the catalogue; a key that is missing shows as itself, and a test finds it. */
export function t(key: string, values: Record<string, unknown> = {}): string {
  return i18n._(key, values);
}

/** How days and times are written in a time zone; in the browser's own where none is said. */
const writes = (timeZone?: string) => ({
  day: new Intl.DateTimeFormat(language, { weekday: "short", day: "numeric", month: "short", timeZone }),
  time: new Intl.DateTimeFormat(language, { hour: "2-digit", minute: "2-digit", hourCycle: "h23", timeZone }),
  /** A day by its number (ISO 8601), to count from one to another. */
  number: new Intl.DateTimeFormat("en-CA", { timeZone }),
});
let written = writes();

/** From now on instants are said in this zone: the one of whoever is logged in. */
export function saysIn(zone: string | undefined): void {
  try {
    written = writes(zone);
  } catch {
    // A zone that this browser does not know: its own is better than none.
    written = writes();
  }
}

/** An instant as a person says it, in their zone. */
export function when(instant: string, now: Date = new Date()): string {
  const at = new Date(instant);
  const clock = written.time.format(at);
  const [then, today] = [written.number.format(at), written.number.format(now)];
  const days = Math.round((Date.parse(then) - Date.parse(today)) / 86_400_000);
  if (days === 0) return t("when.today", { clock });
  if (days === 1) return t("when.tomorrow", { clock });
  if (days === -1) return t("when.yesterday", { clock });
  const year = then.slice(0, 4) === today.slice(0, 4) ? "" : ` ${then.slice(0, 4)}`;
  return t("when.other", { day: `${written.day.format(at)}${year}`, clock });
}

const dayOnly = new Intl.DateTimeFormat(language, { weekday: "short", day: "numeric", month: "short" });

/** A day as a person says it. */
export function day(date: string): string {
  return dayOnly.format(new Date(`${date}T12:00:00`));
}
