import { createQuery } from "@tanstack/svelte-query";
import { api, sure } from "../../lib/api";

/** What one was told. */
export function notificationsQuery() {
  return createQuery(() => ({
    queryKey: ["notifications"],
    queryFn: () => sure(api.GET("/api/notifications")),
  }));
}

/** How one hears of what. */
export function notificationChoicesQuery() {
  return createQuery(() => ({
    queryKey: ["notifications", "choices"],
    queryFn: () => sure(api.GET("/api/notifications/choices")),
  }));
}
