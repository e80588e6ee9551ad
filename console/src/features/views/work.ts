import type { WorkLine } from "../../lib/api";

/** What is waited for, in the order in which it is shown; each is a group of its own. */
export const KINDS = [
  "review",
  "dispatch",
  "named",
  "sent back",
  "ready",
  "to translate",
  "translation",
] as const;
export type Kind = (typeof KINDS)[number];

/** What tells a line from others. */
export function key(line: WorkLine): string {
  return [line.kind, line.id, line.locale, line.job, line.comment, line.revision].join(" ");
}

/** The page on which a line is seen to. */
export function place(line: WorkLine): string {
  if (line.comment) {
    const on = line.locale ? `/entries/${line.id}/${line.locale}` : `/timetable/${line.id}`;
    return `${on}?comment=${line.comment}`;
  }
  if (line.kind === "dispatch") return `/timetable/${line.id}`;
  if (line.kind === "to translate") return `/translation/${line.job}/table`;
  return line.kind === "translation" ? `/translation/${line.job}` : `/entries/${line.id}/${line.locale}`;
}

/** What is late stands before what is due, that before what has no day; then what waits longest. */
export function byUrgency(a: WorkLine, b: WorkLine): number {
  const day = (line: WorkLine) => line.due || "9999";
  return day(a).localeCompare(day(b)) || a.at.localeCompare(b.at);
}
