import type { QueryClient } from "@tanstack/svelte-query";
import { WINDOW } from "./presence.svelte";
import { Change, type Told } from "./changes";

/** Milliseconds for which events are gathered before pages look again. */
const GATHERS = 120;
/** Milliseconds until a line that was refused is tried again, at first and at most. */
const FIRST = 1_000;
const LONGEST = 30_000;

/** The live stream: what others do makes the pages that show it look again, and no others. */
class Live {
  connected = $state(false);
  /** Since when there is no connection; null while there is one, and before there was any. */
  lost = $state.raw<Date | null>(null);
  #pending: ReturnType<typeof setTimeout> | undefined;
  #held = 0;
  #change = new Change();
  #listeners = new Set<(change: Change) => void>();
  #watchers = new Set<(entries: string[]) => void>();
  #began = false;

  /** Be told of what happens; returns what ends that. */
  onEvent(listener: (change: Change) => void): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }

  /** Be told at which entries somebody comes, goes or moves to another field; returns what ends that. */
  onPresence(watcher: (entries: string[]) => void): () => void {
    this.#watchers.add(watcher);
    return () => this.#watchers.delete(watcher);
  }

  follow(queries: QueryClient): () => void {
    let source: EventSource | undefined;
    let wait = FIRST;
    let again: ReturnType<typeof setTimeout> | undefined;
    const open = () => {
      clearTimeout(again);
      source?.close();
      source = this.#listen(queries, () => {
        // A browser goes on by itself after a broken line, but not after an answer that is none, as of a service that begins anew.
        again = setTimeout(open, wait);
        wait = Math.min(wait * 2, LONGEST);
      });
      source.addEventListener("open", () => (wait = FIRST));
    };
    // A device that lost its network knows before the line does, and an open line may not notice at all.
    const gone = () => {
      source?.close();
      this.#lose();
    };
    window.addEventListener("online", open);
    window.addEventListener("offline", gone);
    open();
    return () => {
      window.removeEventListener("online", open);
      window.removeEventListener("offline", gone);
      clearTimeout(again);
      clearTimeout(this.#pending);
      this.#pending = undefined;
      source?.close();
      this.connected = false;
    };
  }

  #lose(): void {
    this.connected = false;
    if (this.#began) this.lost ??= new Date();
  }

  #listen(queries: QueryClient, ended: () => void): EventSource {
    const source = new EventSource(`/events?window=${WINDOW}`);
    source.onopen = () => {
      // What happened while the line was down is told again by its number; who is here is not.
      if (this.#began) for (const watcher of this.#watchers) watcher([]);
      this.#began = true;
      this.connected = true;
      this.lost = null;
    };
    source.onerror = () => {
      this.#lose();
      if (source.readyState === EventSource.CLOSED) ended();
    };
    source.onmessage = (event: MessageEvent<string>) => {
      this.#change.add(JSON.parse(event.data) as Told);
      this.#pending ??= setTimeout(() => this.#tell(queries), GATHERS);
    };
    source.addEventListener("notifications", () => {
      void queries.invalidateQueries({ queryKey: ["notifications"] });
    });
    source.addEventListener("presence", (event: MessageEvent<string>) => {
      const { entries } = JSON.parse(event.data) as { entries: string[] };
      for (const watcher of this.#watchers) watcher(entries);
    });
    return source;
  }

  /** Tell nothing until something is done: a page that is being left does not ask for what is gone. */
  async quiet(act: () => Promise<void>): Promise<void> {
    this.#held++;
    try {
      await act();
    } finally {
      this.#held--;
    }
  }

  #tell(queries: QueryClient): void {
    if (this.#held) {
      this.#pending = setTimeout(() => this.#tell(queries), GATHERS);
      return;
    }
    const change = this.#change;
    this.#change = new Change();
    this.#pending = undefined;
    void queries.invalidateQueries({ predicate: (query) => change.concerns(query.queryKey) });
    for (const listener of this.#listeners) listener(change);
  }
}

export const live = new Live();
