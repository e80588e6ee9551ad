import { session } from "../../lib/state/session.svelte";
import AdjustmentsHorizontalOutline from "flowbite-svelte-icons/AdjustmentsHorizontalOutline.svelte";
import CalendarMonthOutline from "flowbite-svelte-icons/CalendarMonthOutline.svelte";
import ChartMixedOutline from "flowbite-svelte-icons/ChartMixedOutline.svelte";
import FileLinesOutline from "flowbite-svelte-icons/FileLinesOutline.svelte";
import FolderOutline from "flowbite-svelte-icons/FolderOutline.svelte";
import ImageOutline from "flowbite-svelte-icons/ImageOutline.svelte";
import InboxOutline from "flowbite-svelte-icons/InboxOutline.svelte";
import LanguageOutline from "flowbite-svelte-icons/LanguageOutline.svelte";

/** The pages of the main bar: where each leads, and its word and mark. */
export const PLACES = [
  { to: "/", key: "nav.myWork", icon: InboxOutline },
  { to: "/entries", key: "nav.entries", icon: FileLinesOutline },
  { to: "/outline", key: "nav.outline", icon: FolderOutline },
  { to: "/timetable", key: "nav.timetable", icon: CalendarMonthOutline },
  { to: "/translation", key: "nav.translation", icon: LanguageOutline },
  { to: "/library", key: "nav.library", icon: ImageOutline },
  { to: "/figures", key: "nav.figures", icon: ChartMixedOutline },
  { to: "/set-up", key: "nav.setUp", icon: AdjustmentsHorizontalOutline },
] as const;

/** The pages below the set-up, with the verb that opens them where there is one. */
const SET_UP = [
  { to: "/set-up/workflows", key: "flows.title", verb: "" },
  { to: "/set-up/quiet-periods", key: "quiet.title", verb: "" },
  { to: "/set-up/people", key: "people.title", verb: "" },
  { to: "/set-up/keys", key: "keysPage.title", verb: "configure" },
  { to: "/set-up/bureaus", key: "bureausPage.title", verb: "configure" },
  { to: "/set-up/log", key: "log.title", verb: "" },
  { to: "/set-up/log-ins", key: "logIns.title", verb: "configure" },
  { to: "/set-up/languages", key: "languages.title", verb: "" },
  { to: "/set-up/sites", key: "sites.title", verb: "" },
  { to: "/set-up/webhooks", key: "webhooks.title", verb: "configure" },
  { to: "/set-up/in-and-out", key: "exchange.title", verb: "configure" },
  { to: "/search-and-sharing", key: "search.pageTitle", verb: "" },
] as const;

/** Those of them that somebody may open. */
export function setUpPlaces() {
  return SET_UP.filter((one) => !one.verb || session.may(one.verb));
}
