import { setupI18n } from "@lingui/core";
import en from "virtual:messages/en";

/** The language of the interface, as dates and numbers are written in it. */
export const language = "en-GB";
const i18n = setupI18n({ locale: "en", locales: [language], messages: { en }, missing: (_, key) => key });

/** Take in messages that came later, with the part of the console that needs them. */
export function take(messages: typeof en): void {
  i18n.load("en", messages);
}

/** A message of the catalogue; a key that is missing shows as itself, and a test finds it. */
export function t(key: string, values: Record<string, unknown> = {}): string {
  return i18n._(key, values);
}

const dayOnly = new Intl.DateTimeFormat(language, { weekday: "short", day: "numeric", month: "short" });
const time = new Intl.DateTimeFormat(language, { hour: "2-digit", minute: "2-digit" });

/** An instant as a person says it, in this browser's zone. */
export function when(instant: string, now: Date = new Date()): string {
  const at = new Date(instant);
  const clock = time.format(at);
  const days = Math.round((startOfDay(at) - startOfDay(now)) / 86_400_000);
  if (days === 0) return t("when.today", { clock });
  if (days === 1) return t("when.tomorrow", { clock });
  if (days === -1) return t("when.yesterday", { clock });
  const year = at.getFullYear() === now.getFullYear() ? "" : ` ${at.getFullYear()}`;
  return `${dayOnly.format(at)}${year}, ${clock}`;
}

/** A day as a person says it. */
export function day(date: string): string {
  return dayOnly.format(new Date(`${date}T12:00:00`));
}

function startOfDay(at: Date): number {
  return new Date(at.getFullYear(), at.getMonth(), at.getDate()).getTime();
}
