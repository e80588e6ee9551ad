import type { StageSpec } from "../../lib/api";

/** A gate that asks for so many sign-offs, and for nothing unusual. */
export function gated(sign_offs: number, checks: string[] = ["required"]): StageSpec["gate"] {
  const none = { roles: [], people: [], custom: [], override_roles: [], override_people: [] };
  return { sign_offs, author: "no", checks, embedded: "warn", leaving: false, ...none };
}
