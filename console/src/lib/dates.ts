import { later } from "./days";
import { language, t } from "./i18n";

/**
 * Days and times as people type them. A day is `2026-11-30`, a wall time `2026-11-30T09:00` (ISO 8601), as the service takes them.
 *
 * Read are: both of these; `30.11.`, `30/11/26`, `30 Nov 2026`, `November 30` (numbers in the order of the language; without a year
 * the next such day); today, tomorrow, yesterday; a weekday, which is the next one, and `next Friday`, which is that of the week to
 * come; `in 3 days`, `in two weeks`, `in a month`. A time follows as `9`, `9:30`, `21.05`, `9 pm`, `noon`, `midnight`.
 * Names of months and weekdays are those of the language; the other words stand in the catalogue under `dates`.
 */
export function dayFrom(text: string, today: string): string | null {
  const said = withoutWeekday(tidy(text));
  return said ? (iso(said) ?? relative(said, today) ?? named(said, today) ?? numeric(said, today)) : null;
}

/** A wall time; at `usual` where only a day is said. */
export function momentFrom(text: string, today: string, usual = "09:00"): string | null {
  const said = tidy(text).replace(/^(\d{4}-\d\d-\d\d)t/, "$1 ");
  const day = dayFrom(said, today);
  if (day) return `${day}T${usual}`;
  for (const cut of breaks(said)) {
    const [before, after] = [dayFrom(said.slice(0, cut), today), clockFrom(said.slice(cut))];
    if (before && after) return `${before}T${after}`;
  }
  return null;
}

/** The place of a day in its week, Monday being 1 and Sunday 7. */
export function weekday(day: string): number {
  return new Date(`${day}T00:00:00Z`).getUTCDay() || 7;
}

/** How many days of its week come before a day, as weeks begin in the language. */
export function placeInWeek(day: string): number {
  return (weekday(day) - FIRST_OF_WEEK + 7) % 7;
}

/** The weeks of the month of a day, whole ones and as many as it takes, or at least so many. */
export function weeksOf(day: string, least = 1): string[][] {
  const first = `${day.slice(0, 7)}-01`;
  const start = later(first, { days: -placeInWeek(first) });
  const days = placeInWeek(first) + Number(later(later(first, { months: 1 }), { days: -1 }).slice(8));
  return Array.from({ length: Math.max(least, Math.ceil(days / 7)) }, (_, n) =>
    Array.from({ length: 7 }, (_, m) => later(start, { days: 7 * n + m })),
  );
}

/** The week of a day. */
export function weekOf(day: string): string[] {
  return Array.from({ length: 7 }, (_, n) => later(day, { days: n - placeInWeek(day) }));
}

/** A day as it is read aloud and shown. */
export function shownDay(day: string, how: Intl.DateTimeFormatOptions = usualDay): string {
  return format(how).format(new Date(`${day}T00:00:00Z`));
}

/** A wall time as it is shown. */
export function shownMoment(wall: string): string {
  const clock = wall.slice(11, 19).replace(/:00$/, (end) => (wall.length > 16 ? "" : end));
  return t("when.other", { day: shownDay(wall.slice(0, 10)), clock });
}

type Weeks = Intl.Locale & { getWeekInfo?: () => { firstDay: number }; weekInfo?: { firstDay: number } };
const locale = new Intl.Locale(language) as Weeks;
const FIRST_OF_WEEK = (locale.getWeekInfo?.() ?? locale.weekInfo)?.firstDay ?? 1;

const usualDay: Intl.DateTimeFormatOptions = {
  weekday: "short",
  day: "numeric",
  month: "short",
  year: "numeric",
};
const formats = new Map<string, Intl.DateTimeFormat>();

function format(how: Intl.DateTimeFormatOptions): Intl.DateTimeFormat {
  const key = JSON.stringify(how);
  const found = formats.get(key) ?? new Intl.DateTimeFormat(language, { ...how, timeZone: "UTC" });
  formats.set(key, found);
  return found;
}

function tidy(text: string): string {
  return text
    .toLowerCase()
    .replace(/[,،\s]+/g, " ")
    .trim();
}

/** “Mon 30 Nov” is the thirtieth, whichever weekday that is. */
function withoutWeekday(said: string): string {
  const [first, ...rest] = said.split(" ");
  return rest.length && /\d/.test(rest.join(" ")) && weekdayNamed(first!) ? rest.join(" ") : said;
}

function words(key: string): string[] {
  return t(`dates.${key}`).split(" ");
}

function* breaks(said: string): Generator<number> {
  for (let at = said.lastIndexOf(" "); at > 0; at = said.lastIndexOf(" ", at - 1)) yield at;
}

function made(year: number, month: number, date: number): string | null {
  const day = new Date(Date.UTC(year, month - 1, date)).toISOString().slice(0, 10);
  return year > 999 && Number(day.slice(5, 7)) === month && Number(day.slice(8)) === date ? day : null;
}

/** The day in a year; without one, the next such day. */
function inYear(year: string | undefined, month: number, date: number, today: string): string | null {
  if (year) return made(Number(year.length === 2 ? `20${year}` : year), month, date);
  const first = Number(today.slice(0, 4));
  for (let n = 0; n < 5; n++) {
    const day = made(first + n, month, date);
    if (day && day >= today) return day;
  }
  return null;
}

function iso(said: string): string | null {
  const found = /^(\d{4})-(\d\d)-(\d\d)$/.exec(said);
  return found ? made(Number(found[1]), Number(found[2]), Number(found[3])) : null;
}

function relative(said: string, today: string): string | null {
  for (const [key, days] of [
    ["today", 0],
    ["tomorrow", 1],
    ["yesterday", -1],
  ] as const)
    if (words(key).includes(said)) return later(today, { days });
  const parts = said.split(" ");
  // Before the day or after it, as the language has it.
  const coming = parts.length === 2 && parts.some((part) => words("next").includes(part));
  const wanted = weekdayNamed(parts.find((part) => !words("next").includes(part)) ?? "");
  if (wanted && (parts.length === 1 || coming)) {
    const ahead = coming ? 7 - weekday(today) + wanted : (wanted - weekday(today) + 7) % 7 || 7;
    return later(today, { days: ahead });
  }
  if (parts.length !== 3 || !words("in").includes(parts[0]!)) return null;
  const count = /^\d{1,3}$/.test(parts[1]!) ? Number(parts[1]) : numberNamed(parts[1]!);
  if (!count) return null;
  if (words("days").includes(parts[2]!)) return later(today, { days: count });
  if (words("weeks").includes(parts[2]!)) return later(today, { days: 7 * count });
  return words("months").includes(parts[2]!) ? later(today, { months: count }) : null;
}

function numberNamed(said: string): number {
  return words("one").includes(said) ? 1 : words("numbers").indexOf(said) + 1;
}

function weekdayNamed(said: string): number {
  // 1 January 2024 was a Monday.
  return 1 + at(said, (n) => `2024-01-0${n + 1}`, 7, "weekday");
}

function monthNamed(said: string): number {
  return 1 + at(said, (n) => `2024-${String(n + 1).padStart(2, "0")}-01`, 12, "month");
}

/** The place of what is said among the names of a language; its start suffices if it has three letters, or is how the name is shortened. */
function at(said: string, day: (n: number) => string, count: number, part: "weekday" | "month"): number {
  const start = said.replace(/\.$/, "");
  const names = (how: "long" | "short") =>
    Array.from({ length: count }, (_, n) =>
      shownDay(day(n), { [part]: how })
        .toLowerCase()
        .replace(/\.$/, ""),
    );
  const short = names("short").indexOf(start);
  return short >= 0 || start.length < 3 ? short : names("long").findIndex((name) => name.startsWith(start));
}

function named(said: string, today: string): string | null {
  const found =
    /^(\d{1,2})\.? ([^\s\d]+)(?: (\d{4}))?$/.exec(said) ?? /^([^\s\d]+) (\d{1,2})(?: (\d{4}))?$/.exec(said);
  if (!found) return null;
  const [date, name] = /^\d/.test(found[1]!) ? [found[1]!, found[2]!] : [found[2]!, found[1]!];
  const month = monthNamed(name);
  return month ? inYear(found[3], month, Number(date), today) : null;
}

function numeric(said: string, today: string): string | null {
  const found = /^(\d{1,2})[./-](\d{1,2})(?:[./-](\d{2}|\d{4})?)?$/.exec(said);
  if (!found) return null;
  const order = format({ day: "numeric", month: "numeric" })
    .formatToParts(new Date(0))
    .map((part) => part.type);
  const dayFirst = order.indexOf("day") < order.indexOf("month");
  const [date, month] = dayFirst ? [found[1], found[2]] : [found[2], found[1]];
  return inYear(found[3], Number(month), Number(date), today);
}

function clockFrom(text: string): string | null {
  const oclock = new RegExp(`^(\\d{1,2}) ?(?:${words("oclock").join("|")}) ?(\\d\\d)?$`);
  const said = words("at")
    .reduce((rest, word) => rest.replace(new RegExp(`^ ?${word} `), ""), text)
    .trim()
    .replace(oclock, (_, hour: string, minute?: string) => (minute ? `${hour}:${minute}` : hour));
  if (words("noon").includes(said)) return "12:00";
  if (words("midnight").includes(said)) return "00:00";
  const found = /^(\d{1,2})(?:[:.](\d\d))?(?:[:.](\d\d))? ?(\p{L}*)$/u.exec(said);
  if (!found) return null;
  let hour = Number(found[1]);
  const half = found[4] ?? "";
  if (half && (hour < 1 || hour > 12)) return null;
  if (words("am").includes(half)) hour %= 12;
  else if (words("pm").includes(half)) hour = (hour % 12) + 12;
  else if (half) return null;
  const [minute, second] = [found[2] ?? "00", found[3]];
  if (hour > 23 || Number(minute) > 59 || Number(second ?? 0) > 59) return null;
  return `${String(hour).padStart(2, "0")}:${minute}${second ? `:${second}` : ""}`;
}
