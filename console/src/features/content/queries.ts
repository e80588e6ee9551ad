import { createQuery } from "@tanstack/svelte-query";
import { api, pages, sure } from "../../lib/api";
import { moment } from "../../lib/state/moment.svelte";
import type { Decisions } from "../../lib/state/editor.svelte";

/** An entry in one locale. */
export function entryQuery(id: () => string, locale: () => string, strand: () => string = () => "draft") {
  return createQuery(() => ({
    enabled: !!id(),
    queryKey: ["entry", id(), locale(), strand(), moment.at],
    queryFn: () =>
      sure(
        api.GET("/api/entries/{id}/{locale}", {
          params: {
            path: { id: id(), locale: locale() },
            query: { strand: moment.at ? "draft" : strand(), at: moment.at },
          },
        }),
      ),
  }));
}

/** What merging a strand would do, in whole or in part; asked when it is `ready` to be. */
export function proposalQuery(
  path: () => { id: string; locale: string; name: string },
  asked: () => { take: string[] | null; decisions: Decisions; note: string },
  ready: () => boolean,
) {
  return createQuery(() => ({
    queryKey: ["proposal", path(), asked()],
    queryFn: () =>
      sure(
        api.POST("/api/entries/{id}/{locale}/strands/{name}/proposal/check", {
          params: { path: path() },
          body: asked(),
        }),
      ),
    placeholderData: (before) => before,
    enabled: ready(),
  }));
}

/** Templates to begin from. */
export function templatesQuery() {
  return createQuery(() => ({
    queryKey: ["templates"],
    queryFn: () => pages((query) => api.GET("/api/templates", { params: { query } })),
  }));
}

/** Two revisions or stages. */
export function compareQuery(
  id: () => string,
  locale: () => string,
  before: () => string,
  after: () => string,
  mark: () => string,
) {
  return createQuery(() => ({
    queryKey: ["compare", id(), locale(), before(), after(), mark()],
    queryFn: () =>
      sure(
        api.GET("/api/entries/{id}/{locale}/compare", {
          params: { path: { id: id(), locale: locale() }, query: { before: before(), after: after() } },
        }),
      ),
  }));
}

/** Revisions, standings and events. */
export function historyQuery(id: () => string, locale: () => string, mark: () => string) {
  return createQuery(() => ({
    queryKey: ["history", id(), locale(), mark()],
    queryFn: () =>
      sure(
        api.GET("/api/entries/{id}/{locale}/history", { params: { path: { id: id(), locale: locale() } } }),
      ),
  }));
}
