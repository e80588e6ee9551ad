import { createQuery } from "@tanstack/svelte-query";
import { api, pages, sure } from "../../lib/api";

/** Dispatches in order of time, from an instant on, until another. */
export function dispatchesQuery(since: () => string, until: () => string = () => "") {
  return createQuery(() => ({
    queryKey: ["dispatches", since(), until()],
    queryFn: () =>
      pages((query) =>
        api.GET("/api/dispatches", { params: { query: { ...query, since: since(), until: until() } } }),
      ),
    placeholderData: (before) => before,
  }));
}

/** Dispatches of a state that wait for somebody: newest first. */
export function waitingQuery(state: "open" | "held" | "failed") {
  return createQuery(() => ({
    queryKey: ["dispatches", "waiting", state],
    queryFn: () => pages((query) => api.GET("/api/dispatches", { params: { query: { ...query, state } } })),
  }));
}

/** What one would do at its time, and what is in its way. */
export function checkQuery(
  id: () => string,
  withNeeds: () => boolean,
  override: () => boolean,
  wanted: () => boolean,
) {
  return createQuery(() => ({
    queryKey: ["dispatch", id(), "check", withNeeds(), override()],
    queryFn: () =>
      sure(
        api.POST("/api/dispatches/{id}/check", {
          params: { path: { id: id() } },
          body: { when: null, with_needs: withNeeds(), override_quiet: override() },
        }),
      ),
    enabled: wanted(),
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

/** When nothing is released. */
export function quietPeriodsQuery() {
  return createQuery(() => ({
    queryKey: ["quiet-periods"],
    queryFn: () => pages((query) => api.GET("/api/quiet-periods", { params: { query } })),
  }));
}

/** Each time between two instants in which nothing is released. */
export function quietSpansQuery(since: () => string, until: () => string) {
  return createQuery(() => ({
    queryKey: ["quiet-periods", "spans", since(), until()],
    queryFn: () =>
      pages((query) =>
        api.GET("/api/quiet-periods/spans", {
          params: { query: { ...query, since: since(), until: until() } },
        }),
      ),
    placeholderData: (before) => before,
  }));
}
