import { createQuery } from "@tanstack/svelte-query";
import { api, pages, sure } from "../../lib/api";

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
