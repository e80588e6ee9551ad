import { createRouter } from "sv-router";
import InHand from "./pages/InHand.svelte";
import Missing from "./pages/Missing.svelte";

export const { p, navigate, isActive, route } = createRouter({
  "/": InHand,
  "/entries": () => import("./pages/Entries.svelte"),
  "/entries/:id/:locale": () => import("./pages/EntryPage.svelte"),
  "/timetable": () => import("./pages/Timetable.svelte"),
  "/timetable/:id": () => import("./pages/DispatchPage.svelte"),
  "/translation": () => import("./pages/Translation.svelte"),
  "/translation/:id": () => import("./pages/JobPage.svelte"),
  "*": Missing,
});
