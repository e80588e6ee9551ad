import type { QueryClient } from "@tanstack/svelte-query";
import { api, sure, type Notifications } from "../../lib/api";
import { toasts } from "../../lib/state/toasts.svelte";

const KEY = ["notifications"];

/** All that somebody was told is seen: shown so at once, and as it was should the service refuse. */
export async function seeAll(queries: QueryClient): Promise<void> {
  await queries.cancelQueries({ queryKey: KEY, exact: true });
  const before = queries.getQueryData<Notifications>(KEY);
  if (!before) return;
  queries.setQueryData<Notifications>(KEY, {
    ...before,
    new: 0,
    items: before.items.map((one) => ({ ...one, new: false })),
  });
  try {
    const upto = before.items[0]?.id ?? 0;
    await sure(api.POST("/api/notifications/seen", { body: { upto, entry: "" } }));
  } catch (error) {
    queries.setQueryData(KEY, before);
    toasts.wrong(error);
  }
}
