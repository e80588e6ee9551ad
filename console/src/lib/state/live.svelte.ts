import type { QueryClient } from "@tanstack/svelte-query";

/** The live stream: what others do makes the pages that show it look again. */
class Live {
  connected = $state(false);
  #source: EventSource | null = null;
  #pending: ReturnType<typeof setTimeout> | undefined;

  follow(queries: QueryClient): () => void {
    this.#source = new EventSource("/events");
    this.#source.onopen = () => (this.connected = true);
    this.#source.onerror = () => (this.connected = false);
    this.#source.onmessage = () => {
      clearTimeout(this.#pending);
      this.#pending = setTimeout(() => void queries.invalidateQueries(), 120);
    };
    return () => {
      this.#source?.close();
      this.connected = false;
    };
  }
}

export const live = new Live();
