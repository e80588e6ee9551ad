import type { QueryClient } from "@tanstack/svelte-query";

/** The live stream: what others do makes the pages that show it look again. */
class Live {
  connected = $state(false);
  #source: EventSource | null = null;
  #pending: ReturnType<typeof setTimeout> | undefined;
  #listeners = new Set<() => void>();
  #watchers = new Set<() => void>();

  /** Be told of what happens; returns what ends that. */
  onEvent(listener: () => void): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }

  /** Be told when somebody comes, goes or moves to another field; returns what ends that. */
  onPresence(watcher: () => void): () => void {
    this.#watchers.add(watcher);
    return () => this.#watchers.delete(watcher);
  }

  follow(queries: QueryClient): () => void {
    this.#source = new EventSource("/events");
    this.#source.onopen = () => (this.connected = true);
    this.#source.onerror = () => (this.connected = false);
    this.#source.onmessage = () => {
      clearTimeout(this.#pending);
      this.#pending = setTimeout(() => {
        void queries.invalidateQueries();
        for (const listener of this.#listeners) listener();
      }, 120);
    };
    this.#source.addEventListener("notices", () => {
      void queries.invalidateQueries({ queryKey: ["notices"] });
    });
    this.#source.addEventListener("presence", () => {
      for (const watcher of this.#watchers) watcher();
    });
    return () => {
      this.#source?.close();
      this.connected = false;
    };
  }
}

export const live = new Live();
