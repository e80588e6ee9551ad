import { createQuery } from "@tanstack/svelte-query";
import { api, pages, sure } from "../../lib/api";

/** The states of a package in which something is being done with it. */
export const AT_WORK = ["looking", "running", "undoing"];

/** The packages there were, made and given; asked for again while anything is being done with one. */
export function packagesQuery() {
  return createQuery(() => ({
    queryKey: ["packages"],
    queryFn: () => sure(api.GET("/api/packages", { params: { query: { limit: 20 } } })),
    refetchInterval: (query: { state: { data?: { items: { state: string }[] } } }) =>
      query.state.data?.items.some((one) => AT_WORK.includes(one.state)) ? 700 : false,
  }));
}

/** The backups that were made by the timetable. */
export function backupsQuery() {
  return createQuery(() => ({
    queryKey: ["backups"],
    queryFn: () => pages((query) => api.GET("/api/backups", { params: { query } })),
  }));
}

/** The mappings of rows that are kept. */
export function mappingsQuery() {
  return createQuery(() => ({
    queryKey: ["mappings"],
    queryFn: () => pages((query) => api.GET("/api/mappings", { params: { query } })),
  }));
}
