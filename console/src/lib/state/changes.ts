/** One event as the live stream tells it. */
export interface Told {
  kind: string;
  entries: string[];
  locales: string[];
  lists: string[];
  more?: boolean;
}

/** What is kept of one entry, as the second part of its key, however little of it changed. */
const OF_ENTRY = new Set(["entry", "proposal", "trail", "shown-in", "compare", "history", "links"]);
/** What is kept under another name than the list that it is a part of. */
const PART_OF: Record<string, string> = { dispatch: "dispatches", job: "jobs", search: "search-and-sharing" };

/** What changed since the pages looked last: events that came together, as one. */
export class Change {
  kinds = new Set<string>();
  entries = new Set<string>();
  lists = new Set<string>();
  /** More entries changed than were named. */
  more = false;

  /** Take one more event in. */
  add(told: Told): void {
    this.kinds.add(told.kind);
    for (const id of told.entries) this.entries.add(id);
    for (const name of told.lists) this.lists.add(name);
    this.more ||= told.more ?? false;
  }

  /** Whether something about an entry may have changed. */
  touches(id: string): boolean {
    return this.more || this.entries.has(id);
  }

  /** Whether what is kept under a key has to be asked for again. */
  concerns(key: readonly unknown[]): boolean {
    const name = String(key[0]);
    if (this.lists.has("everything")) return true;
    if (name === "log") return true;
    if (this.lists.has(PART_OF[name] ?? name)) return true;
    const about = typeof key[1] === "object" && key[1] !== null ? (key[1] as { id?: string }).id : key[1];
    return OF_ENTRY.has(name) && (!about || this.touches(String(about)));
  }
}
