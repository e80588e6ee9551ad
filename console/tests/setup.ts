import { cleanup } from "@testing-library/svelte";
import { afterEach, beforeEach } from "vitest";

// The client keeps the fetch that it finds when it is made, so tests answer through one that can be changed.
type Answering = { answer: typeof fetch };
globalThis.fetch = ((...given: Parameters<typeof fetch>) =>
  (globalThis as unknown as Answering).answer(...given)) as typeof fetch;

// Nothing moves here: what fades would still be fading when a test is over.
(
  globalThis as unknown as { happyDOM: { settings: { device: { prefersReducedMotion: string } } } }
).happyDOM.settings.device.prefersReducedMotion = "reduce";

beforeEach(() => localStorage.clear());
// The files share one page: what one put there is gone for the next.
afterEach(cleanup);
