// Everything that this site reads. The settings stand in the environment, and one of them is all that shows drafts:
//   HAWTHORN_URL     the service
//   HAWTHORN_STAGE   the stage that is shown, such as draft; what is out without one
//   HAWTHORN_KEY     a reading key that may see that stage
//   HAWTHORN_SECRET  of the webhook that calls /changed; with one, what was read is kept until it is told that it changed
//   HAWTHORN_SITE    the site whose feed, map and robots.txt are given on
import { env } from "$env/dynamic/private";
import type { AnyEntry, ReadPage } from "$lib/museum";

export const service = () => env.HAWTHORN_URL || "http://127.0.0.1:8400";
export const stage = () => env.HAWTHORN_STAGE || "";
export const site = () => env.HAWTHORN_SITE || "live";

/** An entry with what it depends on. */
export type Shown = AnyEntry & { groups?: string[] | null };
export interface Head {
  title: string;
  description: string;
  index: boolean;
  address: string;
  alternates: { locale: string; address: string }[];
  open_graph: { property: string; content: string }[];
  linked_data: unknown;
}
export interface Branch {
  id: string;
  title: string;
  locale: string;
  path: string | null;
  below: Branch[];
}

/** Who asks: what the address of a previewed page carries, and what phrases opened. */
export interface Asking {
  preview: string;
  opened: string;
}
export interface Answer<Body> {
  status: number;
  location: string;
  body: Body;
}

const MOST = 2000;
const kept = new Map<string, { groups: string[] | null; answer: Answer<unknown> }>();
let told = 0;

/** Ask the service. What is kept is what everybody sees: nothing of a preview, and nothing that a phrase opened; with the groups of what
 *  it depends on, where the answer does not say them. */
export async function read<Body>(path: string, asked: Record<string, string>, who: Asking, groups: string[] | null = null): Promise<Answer<Body>> {
  const params = new URLSearchParams({ ...asked, ...(who.preview ? { preview: who.preview } : stage() ? { stage: stage() } : {}) });
  const address = `${path}?${params}`;
  const keeps = !!env.HAWTHORN_SECRET && !stage() && !who.opened;
  const known = keeps && kept.get(address);
  if (known) return known.answer as Answer<Body>;
  const before = told;
  const response = await fetch(service() + address, { headers: headers(who), redirect: "manual" });
  const answer = {
    status: response.status,
    location: response.headers.get("location") ?? "",
    body: (await response.json().catch(() => null)) as Body,
  };
  // What changed while it was read may not be in it.
  if (keeps && answer.status === 200 && before === told) {
    if (kept.size >= MOST) kept.clear();
    kept.set(address, { groups: groups ?? (answer.body as { groups?: string[] }).groups ?? null, answer });
  }
  return answer;
}

export function headers(who: Asking): Record<string, string> {
  if (who.preview) return {};
  if (stage()) return { Authorization: `Bearer ${env.HAWTHORN_KEY ?? ""}` };
  return who.opened ? { "Hawthorn-Unlocked": who.opened } : {};
}

/** Drop what depends on anything that changed; what does not say on what it depends (menus, lists) in any case. */
export function changed(groups: string[], everything: boolean): void {
  told += 1;
  const gone = new Set(groups);
  for (const [address, one] of kept)
    if (everything || gone.has("all") || !one.groups || one.groups.some((name) => gone.has(name))) kept.delete(address);
}

/** A path below one of the service's, or nothing for one that leads out of there: a key is for what readers may see. */
export function below(path: string): string {
  const parts = path.split("/");
  return parts.some((part) => ["", ".", ".."].includes(part)) ? "" : parts.map((part) => encodeURIComponent(part)).join("/").replaceAll("%7E", "~");
}

export async function menu(locale: string, who: Asking): Promise<AnyEntry | null> {
  const found = await read<ReadPage<AnyEntry>>("/read/entries", { type: "menu", locale, limit: "5" }, who);
  return found.status === 200 ? (found.body.items.at(-1) ?? null) : null;
}

export async function outline(asked: Record<string, string>, who: Asking): Promise<Branch[]> {
  const found = await read<{ items: Branch[] }>("/read/outline", asked, who);
  return found.status === 200 ? found.body.items : [];
}
