import { createQuery } from "@tanstack/svelte-query";
import { api, sure } from "../../lib/api";

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
