import { createInfiniteQuery, createQuery } from "@tanstack/svelte-query";
import { api, pages, sure } from "../../lib/api";

/** Events after which readers see something else, as the service chooses them where nobody says otherwise. */
export const USUAL = [
  "dispatch.gone",
  "entry.limited",
  "import.settled",
  "type.",
  "set.",
  "locales.",
  "crops.",
  "sites.",
  "import.undone",
  "records.repaired",
];

/** Who is told of events over HTTP. */
export function webhooksQuery() {
  return createQuery(() => ({
    queryKey: ["webhooks"],
    queryFn: () => pages((query) => api.GET("/api/webhooks", { params: { query } })),
  }));
}

/** What was sent to a webhook, newest first. */
export function deliveriesQuery(id: () => string) {
  return createInfiniteQuery(() => ({
    queryKey: ["webhooks", id(), "sent"],
    queryFn: ({ pageParam, signal }: { pageParam: string; signal: AbortSignal }) => {
      const query = { limit: 20, ...(pageParam ? { cursor: pageParam } : {}) };
      const params = { path: { id: id() }, query };
      return sure(api.GET("/api/webhooks/{id}/deliveries", { params, signal }));
    },
    initialPageParam: "",
    getNextPageParam: (last: { next: string }) => last.next || undefined,
  }));
}
