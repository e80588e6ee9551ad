import { createInfiniteQuery, createQuery, keepPreviousData } from "@tanstack/svelte-query";
import { api, pages, sure } from "../../lib/api";
import { moment } from "../../lib/state/moment.svelte";
import { session } from "../../lib/state/session.svelte";

/** Lists that are kept. */
export function listsQuery() {
  return createQuery(() => ({
    queryKey: ["lists"],
    queryFn: () => pages((query) => api.GET("/api/lists", { params: { query } })),
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

/** The topics by which lists are narrowed: the entries of the type that is called so, where there is one. */
export function listTopicsQuery() {
  return topicsQuery(() => session.setup?.types.find((type) => type.name === "topic")?.name ?? "");
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
  archived: string;
  incomplete: boolean;
  behind: boolean;
  planned: boolean;
  sort: string;
}

/** How many lines of a list come at once. */
const LINES = 50;

/** Entries, page after page. */
export function entriesQuery(given: () => Partial<Filters>) {
  return createInfiniteQuery(() => ({
    queryKey: ["entries", given(), moment.at],
    queryFn: ({ pageParam }: { pageParam: string }) => {
      const query = { ...given(), at: moment.at, limit: LINES, ...(pageParam ? { cursor: pageParam } : {}) };
      return sure(api.GET("/api/entries", { params: { query } }));
    },
    initialPageParam: "",
    getNextPageParam: (last: { next: string }) => last.next || undefined,
    placeholderData: keepPreviousData,
  }));
}

/** How many a list has. */
export function countQuery(given: () => Partial<Filters>) {
  return createQuery(() => ({
    queryKey: ["entries", "count", given(), moment.at],
    queryFn: () => sure(api.GET("/api/entries/count", { params: { query: { ...given(), at: moment.at } } })),
    placeholderData: (before) => before,
  }));
}
