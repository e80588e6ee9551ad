import type { Entry } from "../api";
import { Kept } from "./kept.svelte";

/** An entry as one finds back to it. */
export interface Seen {
  id: string;
  locale: string;
  title: string;
  type: string;
}

const MOST = 8;

/** What is being looked at: the entry that is open, with how an act on it is begun, and those that were open before. */
class Present {
  entry = $state.raw<Entry | null>(null);
  begin: (act: string) => void = () => undefined;
  #recent = new Kept<Seen[]>("recent", []);

  /** The entries that were opened last, newest first. */
  get recent(): Seen[] {
    return this.#recent.value;
  }

  /** Somebody looks at `entry`; returns what ends that. */
  stay(entry: Entry, begin: (act: string) => void): () => void {
    this.entry = entry;
    this.begin = begin;
    const seen = { id: entry.id, locale: entry.locale, title: entry.title, type: entry.type };
    const others = this.recent.filter((one) => one.id !== entry.id || one.locale !== entry.locale);
    this.#recent.value = [seen, ...others].slice(0, MOST);
    return () => {
      if (this.entry?.id === entry.id) this.entry = null;
    };
  }

  /** Whoever logs out leaves no titles behind. */
  forget(): void {
    this.#recent.value = [];
  }
}

export const present = new Present();
