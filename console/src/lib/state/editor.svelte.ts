import { api, Problem, sure, type Conflict, type Entry } from "../api";

export interface SaveOutcome {
  entry: Entry;
  changed: boolean;
  mergedWith: { number: number; author: string }[];
}

export interface Clash {
  conflicts: Conflict[];
  typed: Record<string, number>;
  etag: string;
}

export type Decisions = Record<string, { take: "ours" | "theirs" | "both" | "own"; value?: unknown }>;

interface Kept {
  etag: string;
  typed: Record<string, unknown>;
}

/**
 * What somebody types into one edition. `base` is what they looked at when they began; a newer state of the
 * entry changes `latest` at once, and `base` only while nothing is typed. Typed text is kept in the browser
 * until it is saved.
 */
export class Editor {
  base: Entry = $state.raw()!;
  latest: Entry = $state.raw()!;
  typed = $state<Record<string, unknown>>({});
  clash = $state.raw<Clash | null>(null);
  saving = $state(false);
  broughtBack = $state(false);
  #storage: Storage;
  #who: string;

  /** `who` keeps the typed text of people who share a browser apart. */
  constructor(entry: Entry, storage: Storage, who = "") {
    this.#who = who;
    this.base = entry;
    this.latest = entry;
    this.#storage = storage;
    this.#bringBack();
  }

  get dirty(): boolean {
    return Object.keys(this.typed).length > 0;
  }

  get movedOn(): boolean {
    return this.dirty && this.latest.etag !== this.base.etag;
  }

  value(field: string): unknown {
    return field in this.typed ? this.typed[field] : this.base.fields[field];
  }

  type(field: string, value: unknown): void {
    const typed = { ...this.typed };
    if (same(value, this.base.fields[field])) delete typed[field];
    else typed[field] = value;
    this.typed = typed;
    this.#keep();
  }

  /** A newer state of the entry came from the service. */
  see(entry: Entry): void {
    this.latest = entry;
    if (!this.dirty && !this.clash) this.base = entry;
  }

  discard(): void {
    this.typed = {};
    this.broughtBack = false;
    this.base = this.latest;
    this.#keep();
  }

  async save(note = ""): Promise<SaveOutcome | null> {
    const sent = $state.snapshot(this.typed) as Record<string, unknown>;
    return this.#send(sent, () =>
      api.PATCH("/api/entries/{id}/{locale}", {
        params: { path: this.#path(), header: { "If-Match": this.base.etag } },
        body: { fields: sent, note, strand: this.strand },
      }),
    );
  }

  async settle(decisions: Decisions): Promise<SaveOutcome | null> {
    const clash = this.clash;
    if (!clash) return null;
    const sent = $state.snapshot(this.typed) as Record<string, unknown>;
    return this.#send(sent, () =>
      api.POST("/api/entries/{id}/{locale}/settle", {
        params: { path: this.#path(), header: { "If-Match": clash.etag } },
        body: { typed: clash.typed, decisions, strand: this.strand },
      }),
    );
  }

  #path() {
    return { id: this.base.id, locale: this.base.locale };
  }

  async #send(
    sent: Record<string, unknown>,
    call: () => Promise<{
      data?: { entry: Entry; changed: boolean; merged_with: { number: number; author: string }[] };
      error?: unknown;
      response: Response;
    }>,
  ): Promise<SaveOutcome | null> {
    this.saving = true;
    try {
      const result = await sure(call());
      this.#settled(sent, result.entry);
      return { entry: result.entry, changed: result.changed, mergedWith: result.merged_with };
    } catch (error) {
      if (!(error instanceof Problem) || error.slug !== "conflict") throw error;
      this.clash = {
        conflicts: error.facts.conflicts as Conflict[],
        typed: error.facts.typed as Record<string, number>,
        etag: String(error.facts.etag),
      };
      this.latest = error.facts.entry as Entry;
      return null;
    } finally {
      this.saving = false;
    }
  }

  /** What was sent is saved; what was typed while it was on its way is not. */
  #settled(sent: Record<string, unknown>, entry: Entry): void {
    const left = { ...($state.snapshot(this.typed) as Record<string, unknown>) };
    for (const [field, value] of Object.entries(sent)) if (same(left[field], value)) delete left[field];
    this.base = entry;
    this.latest = entry;
    this.typed = left;
    this.clash = null;
    this.broughtBack = false;
    this.#keep();
  }

  /** The strand that is written in: the draft, or one beside it. */
  get strand(): string {
    return this.base.strand;
  }

  get #key(): string {
    const beside = this.strand === "draft" ? "" : `:${this.strand}`;
    return `hawthorn:typed:${this.#who}:${this.base.id}:${this.base.locale}${beside}`;
  }

  #keep(): void {
    try {
      if (!this.dirty) this.#storage.removeItem(this.#key);
      else this.#storage.setItem(this.#key, JSON.stringify({ etag: this.base.etag, typed: this.typed }));
    } catch {
      // A full or forbidden storage must not stop anybody from typing.
    }
  }

  #bringBack(): void {
    const text = this.#storage.getItem(this.#key);
    if (!text) return;
    const kept = JSON.parse(text) as Kept;
    this.typed = kept.typed;
    // What was typed was typed over an older state: saving has to merge from there.
    this.base = { ...this.base, etag: kept.etag };
    this.broughtBack = true;
  }
}

function same(a: unknown, b: unknown): boolean {
  const empty = (x: unknown) => x === undefined || x === null || x === "" || (Array.isArray(x) && !x.length);
  return (empty(a) && empty(b)) || JSON.stringify(a) === JSON.stringify(b);
}
