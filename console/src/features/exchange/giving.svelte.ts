import type { Acting } from "../../lib/state/acting.svelte";

/** A file that is being given: its name as long as it is sent. */
export class Giving {
  sending = $state("");

  constructor(private readonly acting: Acting) {}

  /** Take the file that was chosen, and let it be sent; the same may be chosen again afterwards. */
  async take(event: Event, send: (file: File) => Promise<unknown>): Promise<void> {
    const input = event.currentTarget as HTMLInputElement;
    const file = input.files?.[0];
    if (!file) return;
    this.sending = file.name;
    await this.acting.do(() => send(file));
    this.sending = "";
    input.value = "";
  }
}

/** A file as the body of a request, just as it is. */
export const asItIs = (file: File, type: string) => ({
  body: file as never,
  bodySerializer: (body: unknown) => body as Blob,
  headers: { "Content-Type": type },
});
