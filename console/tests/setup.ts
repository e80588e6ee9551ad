import { beforeEach } from "vitest";

// The client keeps the fetch that it finds when it is made, so tests answer through one that can be changed.
type Answering = { answer: typeof fetch };
globalThis.fetch = ((...given: Parameters<typeof fetch>) =>
  (globalThis as unknown as Answering).answer(...given)) as typeof fetch;

beforeEach(() => localStorage.clear());
