import { createQuery } from "@tanstack/svelte-query";
import { api, pages, sure } from "./api";
import type { Decisions } from "./state/editor.svelte";

/** An entry in one locale. */
export function entryQuery(id: () => string, locale: () => string, strand: () => string = () => "draft") {
  return createQuery(() => ({
    queryKey: ["entry", id(), locale(), strand()],
    queryFn: () =>
      sure(
        api.GET("/api/entries/{id}/{locale}", {
          params: { path: { id: id(), locale: locale() }, query: { strand: strand() } },
        }),
      ),
  }));
}

/** What merging a strand would do, in whole or in part; asked when it is `ready` to be. */
export function proposalQuery(
  path: () => { id: string; locale: string; name: string },
  asked: () => { take: string[] | null; decisions: Decisions; note: string },
  ready: () => boolean,
) {
  return createQuery(() => ({
    queryKey: ["proposal", path(), asked()],
    queryFn: () =>
      sure(
        api.POST("/api/entries/{id}/{locale}/strands/{name}/proposal/check", {
          params: { path: path() },
          body: asked(),
        }),
      ),
    placeholderData: (before) => before,
    enabled: ready(),
  }));
}

/** Lists that are kept. */
export function listsQuery() {
  return createQuery(() => ({
    queryKey: ["lists"],
    queryFn: () => pages((query) => api.GET("/api/lists", { params: { query } })),
  }));
}

/** Templates to begin from. */
export function templatesQuery() {
  return createQuery(() => ({
    queryKey: ["templates"],
    queryFn: () => pages((query) => api.GET("/api/templates", { params: { query } })),
  }));
}

/** Tags in use, the most used first. */
export function tagsQuery() {
  return createQuery(() => ({
    queryKey: ["tags"],
    queryFn: () => sure(api.GET("/api/tags", { params: { query: { limit: 200 } } })),
  }));
}

/** The entries of a type as a tree. */
export function topicsQuery(type: () => string) {
  return createQuery(() => ({
    queryKey: ["topics", type()],
    queryFn: () =>
      pages((query) => api.GET("/api/topics/{type}", { params: { path: { type: type() }, query } })),
    enabled: type() !== "",
  }));
}

export interface Filters {
  type: string;
  locale: string;
  stage: string;
  person: string;
  words: string;
  topic: string;
  tag: string;
  since: string;
  until: string;
  validity: string;
  incomplete: boolean;
  behind: boolean;
  planned: boolean;
  limit: number;
}

/** A page of entries. */
export function entriesQuery(filters: () => Filters) {
  return createQuery(() => ({
    queryKey: ["entries", filters()],
    queryFn: () => {
      const given = Object.fromEntries(Object.entries(filters()).filter(([, value]) => value));
      return sure(api.GET("/api/entries", { params: { query: given } }));
    },
    placeholderData: (before) => before,
  }));
}

/** What waits. */
export function myWorkQuery() {
  return createQuery(() => ({ queryKey: ["my-work"], queryFn: () => sure(api.GET("/api/my-work")) }));
}

/** A level of the outline. */
export function outlineQuery(
  asked: () => {
    below: string;
    locale: string;
    stage: string;
    at: string;
    cursor?: string;
  },
) {
  return createQuery(() => ({
    queryKey: ["outline", asked()],
    queryFn: () => {
      const given = Object.fromEntries(Object.entries(asked()).filter(([, value]) => value));
      return sure(api.GET("/api/outline", { params: { query: given } }));
    },
    placeholderData: (before) => before,
  }));
}

/** The way to an entry in the outline of the drafts. */
export function trailQuery(id: () => string) {
  return createQuery(() => ({
    queryKey: ["trail", id()],
    queryFn: () => sure(api.GET("/api/outline/{id}/trail", { params: { path: { id: id() } } })),
    enabled: id() !== "",
    retry: false,
  }));
}

/** Files of the library. */
export function libraryQuery(asked: () => { words: string; folder: string; type: string; cursor?: string }) {
  return createQuery(() => ({
    queryKey: ["library", asked()],
    queryFn: () => {
      const given = Object.fromEntries(Object.entries(asked()).filter(([, value]) => value));
      return sure(api.GET("/api/library", { params: { query: given } }));
    },
    placeholderData: (before) => before,
  }));
}

/** Folders of the library. */
export function foldersQuery() {
  return createQuery(() => ({
    queryKey: ["folders"],
    queryFn: () => pages((query) => api.GET("/api/folders", { params: { query } })),
  }));
}

/** Links that were given out. */
export function linksQuery(entry: () => string) {
  return createQuery(() => ({
    queryKey: ["links", entry()],
    queryFn: () =>
      pages((query) => api.GET("/api/preview-links", { params: { query: { ...query, entry: entry() } } })),
  }));
}

/** The pages that show an entry. */
export function shownInQuery(id: () => string, wanted: () => boolean = () => true) {
  return createQuery(() => ({
    queryKey: ["shown-in", id()],
    queryFn: () => sure(api.GET("/api/entries/{id}/shown-in", { params: { path: { id: id() } } })),
    enabled: wanted(),
  }));
}

/** Pages whose text for searches and sharing has something wrong with it. */
export function searchAndSharingQuery(locale: () => string) {
  return createQuery(() => ({
    queryKey: ["search-and-sharing", locale()],
    queryFn: () => sure(api.GET("/api/search-and-sharing", { params: { query: { locale: locale() } } })),
  }));
}

/** Everybody. */
export function peopleQuery() {
  return createQuery(() => ({
    queryKey: ["people"],
    queryFn: () => pages((query) => api.GET("/api/people", { params: { query } })),
    staleTime: 60_000,
  }));
}

/** Two revisions or stages. */
export function compareQuery(
  id: () => string,
  locale: () => string,
  before: () => string,
  after: () => string,
  mark: () => string,
) {
  return createQuery(() => ({
    queryKey: ["compare", id(), locale(), before(), after(), mark()],
    queryFn: () =>
      sure(
        api.GET("/api/entries/{id}/{locale}/compare", {
          params: { path: { id: id(), locale: locale() }, query: { before: before(), after: after() } },
        }),
      ),
  }));
}

/** Revisions, standings and events. */
export function historyQuery(id: () => string, locale: () => string, mark: () => string) {
  return createQuery(() => ({
    queryKey: ["history", id(), locale(), mark()],
    queryFn: () =>
      sure(
        api.GET("/api/entries/{id}/{locale}/history", { params: { path: { id: id(), locale: locale() } } }),
      ),
  }));
}

/** Dispatches in order of time, from an instant on. */
export function dispatchesQuery(since: () => string) {
  return createQuery(() => ({
    queryKey: ["dispatches", since()],
    queryFn: () =>
      pages((query) => api.GET("/api/dispatches", { params: { query: { ...query, since: since() } } })),
    placeholderData: (before) => before,
  }));
}

/** One dispatch. */
export function dispatchQuery(id: () => string) {
  return createQuery(() => ({
    queryKey: ["dispatch", id()],
    queryFn: () => sure(api.GET("/api/dispatches/{id}", { params: { path: { id: id() } } })),
  }));
}

/** Jobs, newest first. */
export function jobsQuery(many: () => number) {
  return createQuery(() => ({
    queryKey: ["jobs", many()],
    queryFn: () => pages((query) => api.GET("/api/jobs", { params: { query } }), many(), 50),
    placeholderData: (before) => before,
  }));
}

/** One job with its units. */
export function jobQuery(id: () => string) {
  return createQuery(() => ({
    queryKey: ["job", id()],
    queryFn: () => sure(api.GET("/api/jobs/{id}", { params: { path: { id: id() } } })),
  }));
}

/** Entries against locales. */
export function gridQuery(many: () => number) {
  return createQuery(() => ({
    queryKey: ["grid", many()],
    queryFn: () => pages((query) => api.GET("/api/translation/grid", { params: { query } }), many(), 100),
    placeholderData: (before) => before,
  }));
}

/** What one was told. */
export function notificationsQuery() {
  return createQuery(() => ({
    queryKey: ["notifications"],
    queryFn: () => sure(api.GET("/api/notifications")),
  }));
}

/** How one hears of what. */
export function notificationChoicesQuery() {
  return createQuery(() => ({
    queryKey: ["notifications", "choices"],
    queryFn: () => sure(api.GET("/api/notifications/choices")),
  }));
}

/** The roles with their grants. */
export function rolesQuery() {
  return createQuery(() => ({
    queryKey: ["roles"],
    queryFn: () => pages((query) => api.GET("/api/roles", { params: { query } })),
  }));
}

/** The keys of programs. */
export function keysQuery() {
  return createQuery(() => ({
    queryKey: ["keys"],
    queryFn: () => pages((query) => api.GET("/api/keys", { params: { query } })),
  }));
}

/** The bureaus that take jobs. */
export function bureausQuery() {
  return createQuery(() => ({
    queryKey: ["bureaus"],
    queryFn: () => pages((query) => api.GET("/api/bureaus", { params: { query } })),
  }));
}

/** One's own account. */
export function accountQuery() {
  return createQuery(() => ({ queryKey: ["account"], queryFn: () => sure(api.GET("/api/account")) }));
}

/** Where one is logged in. */
export function sessionsQuery() {
  return createQuery(() => ({
    queryKey: ["sessions"],
    queryFn: () => pages((query) => api.GET("/api/account/sessions", { params: { query } })),
  }));
}

/** The event log by filter. */
export function logQuery(
  asked: () => { kind: string; person: string; since: string; until: string; cursor: string },
) {
  return createQuery(() => ({
    queryKey: ["log", asked()],
    queryFn: () => {
      const given = Object.fromEntries(Object.entries(asked()).filter(([, value]) => value));
      return sure(api.GET("/api/events", { params: { query: { ...given, limit: 100 } } }));
    },
    placeholderData: (before) => before,
    retry: false,
  }));
}
