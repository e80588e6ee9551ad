import type { Dispatch } from "../../lib/api";
import { shownMoment } from "../../lib/dates";
import { t } from "../../lib/i18n";
import { session } from "../../lib/state/session.svelte";

/** The wall time that a dispatch was planned for, where it was planned in another zone than one's own; empty otherwise. */
export function elsewhere(one: Dispatch): string {
  if (!one.wall || !one.zone || one.zone === session.me?.zone) return "";
  return t("timetable.wall", {
    moment: shownMoment(one.wall.slice(0, 16)),
    zone: one.zone.replaceAll("_", " "),
  });
}
