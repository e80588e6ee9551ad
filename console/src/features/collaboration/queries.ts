import { createQuery } from "@tanstack/svelte-query";
import { api, pages, sure } from "../../lib/api";

/** What one was told. */
export function notificationsQuery() {
  return createQuery(() => ({
    queryKey: ["notifications"],
    queryFn: () => sure(api.GET("/api/notifications")),
  }));
}

/** What is said of a dispatch as a whole. */
export function dispatchCommentsQuery(id: () => string) {
  return createQuery(() => ({
    queryKey: ["dispatch-comments", id()],
    queryFn: () =>
      pages((query) => api.GET("/api/dispatches/{id}/comments", { params: { path: { id: id() }, query } })),
  }));
}

/** How one hears of what. */
export function notificationChoicesQuery() {
  return createQuery(() => ({
    queryKey: ["notifications", "choices"],
    queryFn: () => sure(api.GET("/api/notifications/choices")),
  }));
}
