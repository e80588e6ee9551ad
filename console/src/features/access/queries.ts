import { createQuery } from "@tanstack/svelte-query";
import { api, pages, sure } from "../../lib/api";

/** Everybody. */
export function peopleQuery() {
  return createQuery(() => ({
    queryKey: ["people"],
    queryFn: () => pages((query) => api.GET("/api/people", { params: { query } })),
    staleTime: 60_000,
  }));
}

/** What somebody has to do and answers for. */
export function tasksQuery(handle: () => string) {
  return createQuery(() => ({
    queryKey: ["people", handle(), "tasks"],
    queryFn: () =>
      pages((query) =>
        api.GET("/api/people/{handle}/tasks", { params: { path: { handle: handle() }, query } }),
      ),
  }));
}

/** The roles with their grants. */
export function rolesQuery() {
  return createQuery(() => ({
    queryKey: ["roles"],
    queryFn: () => pages((query) => api.GET("/api/roles", { params: { query } })),
  }));
}

/** The keys of programs. */
export function keysQuery() {
  return createQuery(() => ({
    queryKey: ["keys"],
    queryFn: () => pages((query) => api.GET("/api/keys", { params: { query } })),
  }));
}

/** One's own account. */
export function accountQuery() {
  return createQuery(() => ({ queryKey: ["account"], queryFn: () => sure(api.GET("/api/account")) }));
}

/** Where one is logged in. */
export function passkeysQuery() {
  return createQuery(() => ({
    queryKey: ["passkeys"],
    queryFn: () => pages((query) => api.GET("/api/account/passkeys", { params: { query } })),
  }));
}

export function sessionsQuery() {
  return createQuery(() => ({
    queryKey: ["sessions"],
    queryFn: () => pages((query) => api.GET("/api/account/sessions", { params: { query } })),
  }));
}

/** Of which log-ins is asked. */
export interface LogInsAsked {
  what: "" | "opened" | "refused" | "ended" | "changed";
  person: string;
  since: string;
  until: string;
  cursor: string;
}

/** Who came in, was refused, or left. */
export function logInsQuery(asked: () => LogInsAsked) {
  return createQuery(() => ({
    queryKey: ["log-ins", asked()],
    queryFn: () => sure(api.GET("/api/log-ins", { params: { query: { ...asked(), limit: 100 } } })),
    placeholderData: (before) => before,
    retry: false,
  }));
}

/** The assistants, and what each did lately. */
export function assistantsQuery() {
  return createQuery(() => ({
    queryKey: ["assistants"],
    queryFn: () => pages((query) => api.GET("/api/assistants", { params: { query } })),
  }));
}
