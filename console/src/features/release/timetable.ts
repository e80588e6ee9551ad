import { createInfiniteQuery, createQuery } from "@tanstack/svelte-query";
import { api, pages, sure } from "../../lib/api";
import { session } from "../../lib/state/session.svelte";
import { aboutOf, type Narrowing } from "./narrowing";

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

/** Assignments and translation jobs that are due from one day until before another. */
export function duesQuery(since: () => string, until: () => string, narrowing: () => Narrowing) {
  return createQuery(() => ({
    queryKey: ["my-work", "dues", since(), until(), narrowing()],
    queryFn: () =>
      pages((query) =>
        api.GET("/api/dues", {
          params: { query: { ...query, since: since(), until: until(), ...aboutOf(narrowing()) } },
        }),
      ),
    placeholderData: (before) => before,
  }));
}

/** The calendars that one subscribes to. */
export function calendarsQuery() {
  return createQuery(() => ({
    queryKey: ["calendars"],
    queryFn: () => pages((query) => api.GET("/api/calendars", { params: { query } })),
  }));
}

/** The entries that head sections. */
export function sectionsQuery() {
  return createQuery(() => ({
    queryKey: ["entries", "sections"],
    queryFn: async () => {
      const found = new Map<string, string>();
      for (const type of (session.setup?.types ?? []).filter((one) => one.section)) {
        const query = { type: type.name, sort: "title", limit: 200 } as const;
        const page = await sure(api.GET("/api/entries", { params: { query } }));
        for (const one of page.items) if (!found.has(one.id)) found.set(one.id, one.title);
      }
      return found;
    },
    staleTime: 60_000,
  }));
}

/** What readers see differently at two instants. */
export function differencesQuery(since: () => string, until: () => string) {
  return createInfiniteQuery(() => ({
    queryKey: ["dispatches", "differences", since(), until()],
    queryFn: ({ pageParam }: { pageParam: string }) => {
      const query = {
        ...(since() ? { since: since() } : {}),
        until: until(),
        limit: 100,
        ...(pageParam ? { cursor: pageParam } : {}),
      };
      return sure(api.GET("/api/differences", { params: { query } }));
    },
    initialPageParam: "",
    getNextPageParam: (last: { next: string }) => last.next || undefined,
    enabled: until() !== "",
    retry: false,
  }));
}
