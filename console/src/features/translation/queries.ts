import { createQuery } from "@tanstack/svelte-query";
import { api, pages, sure } from "../../lib/api";

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

/** The bureaus that take jobs. */
export function bureausQuery() {
  return createQuery(() => ({
    queryKey: ["bureaus"],
    queryFn: () => pages((query) => api.GET("/api/bureaus", { params: { query } })),
  }));
}
