import { createQuery } from "@tanstack/svelte-query";
import { api, pages, sure } from "../../lib/api";
import { aboutOf, ALL, given, type Narrowing } from "./narrowing";

/** Dispatches in order of time, from an instant on, until another, narrowed to what is asked for. */
export function dispatchesQuery(
  since: () => string,
  until: () => string = () => "",
  narrowing: () => Narrowing = () => ALL,
) {
  return createQuery(() => ({
    queryKey: ["dispatches", since(), until(), narrowing()],
    queryFn: () =>
      pages((query) =>
        api.GET("/api/dispatches", {
          params: { query: { ...query, since: since(), until: until(), ...given(narrowing()) } },
        }),
      ),
    placeholderData: (before) => before,
  }));
}

/** Dispatches of a state that wait for somebody: newest first. */
export function waitingQuery(state: "open" | "held" | "failed", narrowing: () => Narrowing = () => ALL) {
  return createQuery(() => ({
    queryKey: ["dispatches", "waiting", state, narrowing()],
    queryFn: () =>
      pages((query) =>
        api.GET("/api/dispatches", { params: { query: { ...query, ...aboutOf(narrowing()), state } } }),
      ),
  }));
}

/** What one would do at its time, and what is in its way. */
export function checkQuery(id: () => string, override: () => boolean, wanted: () => boolean) {
  return createQuery(() => ({
    queryKey: ["dispatch", id(), "check", override()],
    queryFn: () =>
      sure(
        api.POST("/api/dispatches/{id}/check", {
          params: { path: { id: id() } },
          body: { when: null, with_needs: false, override_quiet: override() },
        }),
      ),
    enabled: wanted(),
    placeholderData: (before) => before,
  }));
}

/** One dispatch. */
export function dispatchQuery(id: () => string, wanted: () => boolean = () => true) {
  return createQuery(() => ({
    enabled: wanted(),
    queryKey: ["dispatch", id()],
    queryFn: () => sure(api.GET("/api/dispatches/{id}", { params: { path: { id: id() } } })),
  }));
}

/** What happened to a dispatch, newest first. */
export function happenedQuery(id: () => string) {
  return createQuery(() => ({
    queryKey: ["dispatches", id(), "happened"],
    queryFn: () => sure(api.GET("/api/events", { params: { query: { dispatch: id(), limit: 50 } } })),
  }));
}
