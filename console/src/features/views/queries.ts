import { createQuery } from "@tanstack/svelte-query";
import { api, pages, sure } from "../../lib/api";
import { session } from "../../lib/state/session.svelte";
import type { Wanted } from "./figures/series";

/** What waits. */
export function myWorkQuery() {
  return createQuery(() => ({ queryKey: ["my-work"], queryFn: () => sure(api.GET("/api/my-work")) }));
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

/** Of what figures are asked for; what is empty narrows nothing. */
export interface FiguresAsked {
  weeks: number;
  type: string;
  section: string;
  locale: string;
  person: string;
}

const given = (asked: object) => Object.fromEntries(Object.entries(asked).filter(([, value]) => value));

/** Figures of some weeks. */
export function figuresQuery(asked: () => FiguresAsked) {
  return createQuery(() => ({
    queryKey: ["figures", asked()],
    queryFn: () => sure(api.GET("/api/figures", { params: { query: given(asked()) } })),
    placeholderData: (before) => before,
    retry: false,
  }));
}

/** The entries behind a number. */
export function behindQuery(wanted: () => Wanted, asked: () => FiguresAsked, many: () => number) {
  return createQuery(() => ({
    queryKey: ["figures", "behind", wanted(), asked(), many()],
    queryFn: () => {
      const { figure, stage = "", week = "" } = wanted();
      const query = { figure, ...given({ ...asked(), stage, week }) };
      return pages(
        (page) => api.GET("/api/figures/behind", { params: { query: { ...query, ...page } } }),
        many(),
        50,
      );
    },
    placeholderData: (before) => before,
  }));
}

/** The entries that head a section. */
export function sectionsQuery() {
  const types = (session.setup?.types ?? []).filter((one) => one.section).map((one) => one.name);
  return createQuery(() => ({
    queryKey: ["sections", types],
    queryFn: async () => {
      const found = await Promise.all(
        types.map((type) => sure(api.GET("/api/entries", { params: { query: { type, limit: 100 } } }))),
      );
      const by = new Map(found.flatMap((one) => one.items.map((line) => [line.id, line.title])));
      return [...by].map(([id, title]) => ({ id, title }));
    },
    enabled: types.length > 0,
  }));
}
