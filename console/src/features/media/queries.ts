import { createQuery } from "@tanstack/svelte-query";
import { api, pages, sure } from "../../lib/api";

/** Files of the library. */
export function libraryQuery(asked: () => { words: string; folder: string; type: string; cursor?: string }) {
  return createQuery(() => ({
    queryKey: ["library", asked()],
    queryFn: () => {
      const given = Object.fromEntries(Object.entries(asked()).filter(([, value]) => value));
      return sure(api.GET("/api/library", { params: { query: given } }));
    },
    placeholderData: (before) => before,
  }));
}

/** Folders of the library. */
export function foldersQuery() {
  return createQuery(() => ({
    queryKey: ["folders"],
    queryFn: () => pages((query) => api.GET("/api/folders", { params: { query } })),
  }));
}
