import { createRouter } from "sv-router";
import MyWork from "./pages/MyWork.svelte";
import Missing from "./pages/Missing.svelte";

export const { p, navigate, isActive, route } = createRouter({
  "/": MyWork,
  "/entries": () => import("./pages/Entries.svelte"),
  "/entries/:id/:locale": () => import("./pages/EntryPage.svelte"),
  "/entries/:id/:locale/strands/:name": () => import("./pages/EntryPage.svelte"),
  "/entries/:id/:locale/strands/:name/proposal": () => import("./pages/ProposalPage.svelte"),
  "/set-up": () => import("./pages/SetUp.svelte"),
  "/set-up/types/:name": () => import("./pages/TypePage.svelte"),
  "/set-up/field-sets/:name": () => import("./pages/TypePage.svelte"),
  "/entries/:id/:locale/compare": () => import("./pages/ComparePage.svelte"),
  "/preview/:id/:locale": () => import("./pages/PreviewPage.svelte"),
  "/outline": () => import("./pages/OutlinePage.svelte"),
  "/library": () => import("./pages/LibraryPage.svelte"),
  "/search-and-sharing": () => import("./pages/SearchAndSharingPage.svelte"),
  "/set-up/workflows": () => import("./pages/WorkflowsPage.svelte"),
  "/set-up/people": () => import("./pages/PeoplePage.svelte"),
  "/set-up/keys": () => import("./pages/KeysPage.svelte"),
  "/set-up/log": () => import("./pages/LogPage.svelte"),
  "/account": () => import("./pages/AccountPage.svelte"),
  "/set-up/languages": () => import("./pages/LanguagesPage.svelte"),
  "/set-up/bureaus": () => import("./pages/BureausPage.svelte"),
  "/set-up/sites": () => import("./pages/SitesPage.svelte"),
  "/timetable": () => import("./pages/Timetable.svelte"),
  "/timetable/:id": () => import("./pages/DispatchPage.svelte"),
  "/translation": () => import("./pages/Translation.svelte"),
  "/translation/:id": () => import("./pages/JobPage.svelte"),
  "*": Missing,
});
