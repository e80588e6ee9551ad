import { createQuery } from "@tanstack/svelte-query";
import type { JOB_STATES } from "./states";
import { api, pages, sure, type CommissionLine, type CoverageState } from "../../lib/api";

/** What a list of jobs is narrowed to; what is left out narrows nothing. */
export interface JobsAsked {
  state?: "open" | (typeof JOB_STATES)[number];
  locale?: string;
  bureau?: string;
  person?: string;
}

/** Jobs, newest first. */
export function jobsQuery(asked: () => JobsAsked, many: () => number) {
  return createQuery(() => ({
    queryKey: ["jobs", asked(), many()],
    queryFn: () =>
      pages((page) => api.GET("/api/jobs", { params: { query: { ...asked(), ...page } } }), many(), 50),
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

export type CommissionState = CommissionLine["state"];
export const COMMISSION_STATES: CommissionState[] = ["open", "sent", "closed", "cancelled"];

/** Commissions in a state, the newest first. */
export function commissionsQuery(state: () => CommissionState | "", many: () => number) {
  return createQuery(() => ({
    queryKey: ["commissions", state(), many()],
    queryFn: () =>
      pages(
        (page) => api.GET("/api/commissions", { params: { query: { state: state(), ...page } } }),
        many(),
        50,
      ),
    placeholderData: (before) => before,
  }));
}

/** One commission with what is in it. */
export function commissionQuery(id: () => string) {
  return createQuery(() => ({
    queryKey: ["commissions", "one", id()],
    queryFn: () => sure(api.GET("/api/commissions/{id}", { params: { path: { id: id() } } })),
    placeholderData: (before) => before,
  }));
}

/** What of the grid is asked for; what is empty asks for nothing. */
export interface GridAsked {
  type: string;
  words: string;
  owner: string;
  due: string;
  locale: string;
  state: CoverageState | "";
}
export const BLANK: GridAsked = { type: "", words: "", owner: "", due: "", locale: "", state: "" };
export const STATES: CoverageState[] = [
  "none",
  "in a job",
  "draft",
  "out of date",
  "ready",
  "out",
  "out and out of date",
];

/** Entries against locales. */
export function gridQuery(asked: () => GridAsked, many: () => number) {
  return createQuery(() => ({
    queryKey: ["grid", { ...asked() }, many()],
    queryFn: () =>
      pages(
        (page) => api.GET("/api/translation/grid", { params: { query: { ...asked(), ...page } } }),
        many(),
        50,
      ),
    placeholderData: (before) => before,
  }));
}

/** The sums of all that the grid has. */
export function totalsQuery(asked: () => GridAsked) {
  return createQuery(() => ({
    queryKey: ["grid", "totals", { ...asked() }],
    queryFn: () => sure(api.GET("/api/translation/totals", { params: { query: asked() } })),
    placeholderData: (before) => before,
  }));
}

/** How an entry stands in the locales, and what is due in one. */
export function coverageQuery(id: () => string, locale: () => string) {
  return createQuery(() => ({
    queryKey: ["entry", id(), "coverage", locale()],
    queryFn: () =>
      sure(
        api.GET("/api/entries/{id}/{locale}/coverage", { params: { path: { id: id(), locale: locale() } } }),
      ),
  }));
}

/** The bureaus that take jobs. */
export function bureausQuery() {
  return createQuery(() => ({
    queryKey: ["bureaus"],
    queryFn: () => pages((query) => api.GET("/api/bureaus", { params: { query } })),
  }));
}

/** The translation memories that may be used. */
export function memoriesQuery() {
  return createQuery(() => ({
    queryKey: ["memories"],
    queryFn: () => pages((query) => api.GET("/api/memories", { params: { query } })),
  }));
}

/** What goes out for translation by itself. */
export function standingQuery() {
  return createQuery(() => ({
    queryKey: ["standing-commissions"],
    queryFn: () => sure(api.GET("/api/standing-commissions", { params: { query: { limit: 200 } } })),
  }));
}

/** The glossaries that may be used. */
export function glossariesQuery() {
  return createQuery(() => ({
    queryKey: ["glossaries"],
    queryFn: () => pages((query) => api.GET("/api/glossaries", { params: { query } })),
  }));
}

/** The concepts of a glossary. */
export function conceptsQuery(
  id: () => string,
  asked: () => { words: string; locale: string },
  many: () => number,
) {
  return createQuery(() => ({
    queryKey: ["glossaries", "concepts", id(), { ...asked() }, many()],
    queryFn: () =>
      pages(
        (page) =>
          api.GET("/api/glossaries/{id}/concepts", {
            params: { path: { id: id() }, query: { ...asked(), ...page } },
          }),
        many(),
        50,
      ),
    placeholderData: (before) => before,
  }));
}

/** The sentences of a memory. */
export function sentencesQuery(
  id: () => string,
  asked: () => { words: string; source: string; target: string },
  many: () => number,
) {
  return createQuery(() => ({
    queryKey: ["memories", "sentences", id(), { ...asked() }, many()],
    queryFn: () =>
      pages(
        (page) =>
          api.GET("/api/memories/{id}/sentences", {
            params: { path: { id: id() }, query: { ...asked(), ...page } },
          }),
        many(),
        50,
      ),
    placeholderData: (before) => before,
  }));
}

/** The imports into a memory or a glossary; looked at again while one is on its way. */
export function importsQuery(what: "memories" | "glossaries", id: () => string, running: () => boolean) {
  const params = () => ({ path: { id: id() }, query: { limit: 20 } });
  return createQuery(() => ({
    queryKey: [what, "imports", id()],
    queryFn: () =>
      sure(
        what === "memories"
          ? api.GET("/api/memories/{id}/imports", { params: params() })
          : api.GET("/api/glossaries/{id}/imports", { params: params() }),
      ),
    refetchInterval: running() ? 1000 : (false as const),
  }));
}
