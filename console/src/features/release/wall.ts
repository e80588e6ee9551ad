import "../../messages/release";
import type { Dispatch } from "../../lib/api";
import { shownMoment } from "../../lib/dates";
import { language, t } from "../../lib/i18n";
import { session } from "../../lib/state/session.svelte";

/** The wall time that a dispatch was planned for, where it was planned in another zone than one's own; empty otherwise. */
export function elsewhere(one: Dispatch): string {
  if (!one.wall || !one.zone || one.zone === session.me?.zone) return "";
  return t("timetable.wall", {
    moment: shownMoment(one.wall.slice(0, 16)),
    zone: one.zone.replaceAll("_", " "),
  });
}

const UNITS = [
  ["day", 86_400],
  ["hour", 3_600],
  ["minute", 60],
  ["second", 1],
] as const;

/** How late one went, in the greatest unit of which it is at least two; empty for one that was not late or has not gone. */
export function lateness(one: Dispatch): string {
  const seconds = one.state === "gone" || one.state === "undone" ? Math.round(one.late_by_seconds) : 0;
  const [unit, length] = UNITS.find(([, length]) => seconds >= 2 * length) ?? ["second", 1];
  const time = new Intl.NumberFormat(language, { style: "unit", unit, unitDisplay: "long" });
  return seconds ? t("timetable.late", { time: time.format(Math.round(seconds / length)) }) : "";
}
