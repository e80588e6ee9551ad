import { createQuery } from "@tanstack/svelte-query";
import { api, pages, sure } from "../../lib/api";

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
