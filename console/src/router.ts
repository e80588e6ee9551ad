import { createRouter } from "sv-router";
import MyWorkPage from "./features/views/MyWorkPage.svelte";
import MissingPage from "./features/frame/MissingPage.svelte";

export const { p, navigate, isActive, route } = createRouter({
  "/": MyWorkPage,
  "/entries": () => import("./features/search/EntriesPage.svelte"),
  "/entries/:id/:locale": () => import("./features/content/EntryPage.svelte"),
  "/entries/:id/:locale/strands/:name": () => import("./features/content/EntryPage.svelte"),
  "/entries/:id/:locale/strands/:name/proposal": () => import("./features/content/ProposalPage.svelte"),
  "/set-up": () => import("./features/frame/SetUpPage.svelte"),
  "/set-up/types/:name": () => import("./features/content/TypePage.svelte"),
  "/set-up/field-sets/:name": () => import("./features/content/TypePage.svelte"),
  "/entries/:id/:locale/compare": () => import("./features/content/ComparePage.svelte"),
  "/preview/:id/:locale": () => import("./features/delivery/PreviewPage.svelte"),
  "/outline": () => import("./features/delivery/OutlinePage.svelte"),
  "/library": () => import("./features/media/LibraryPage.svelte"),
  "/search-and-sharing": () => import("./features/delivery/SearchAndSharingPage.svelte"),
  "/set-up/workflows": () => import("./features/release/WorkflowsPage.svelte"),
  "/set-up/people": () => import("./features/access/PeoplePage.svelte"),
  "/set-up/keys": () => import("./features/access/KeysPage.svelte"),
  "/set-up/log": () => import("./features/views/LogPage.svelte"),
  "/account": () => import("./features/access/AccountPage.svelte"),
  "/set-up/languages": () => import("./features/content/LanguagesPage.svelte"),
  "/set-up/bureaus": () => import("./features/translation/BureausPage.svelte"),
  "/set-up/sites": () => import("./features/delivery/SitesPage.svelte"),
  "/set-up/webhooks": () => import("./features/delivery/WebhooksPage.svelte"),
  "/set-up/quiet-periods": () => import("./features/release/QuietPeriodsPage.svelte"),
  "/timetable": () => import("./features/release/TimetablePage.svelte"),
  "/timetable/:id": () => import("./features/release/DispatchPage.svelte"),
  "/translation": () => import("./features/translation/TranslationPage.svelte"),
  "/translation/:id": () => import("./features/translation/JobPage.svelte"),
  "*": MissingPage,
});
