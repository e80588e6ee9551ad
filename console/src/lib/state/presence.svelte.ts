import { api, sure, type Present } from "../api";

const AGAIN = 20_000;
/** This window, as the live stream names it: when the stream ends, whatever it had open is closed. */
export const WINDOW = crypto.randomUUID().slice(0, 18);
let pages = 0;

/** Says that this page has an entry open, and knows who else has. */
export class Presence {
  others = $state.raw<Present[]>([]);
  readonly page = `${WINDOW}.${++pages}`;
  #field = "";
  #typing = false;
  #left = false;
  #timer: ReturnType<typeof setInterval> | undefined;

  constructor(
    private readonly id: string,
    private readonly locale: string,
    private readonly strand: string,
  ) {}

  /** Be here until what this returns is called. */
  stay(): () => void {
    void this.#tell();
    this.#timer = setInterval(() => void this.#tell(), AGAIN);
    const leave = () => this.#leave();
    window.addEventListener("pagehide", leave);
    return () => {
      clearInterval(this.#timer);
      window.removeEventListener("pagehide", leave);
      leave();
    };
  }

  /** The cursor is in a field now, or in none. */
  move(field: string, typing: boolean): void {
    if (field === this.#field && typing === this.#typing) return;
    this.#field = field;
    this.#typing = typing;
    void this.#tell();
  }

  /** Look again at who is here. */
  async look(): Promise<void> {
    try {
      const found = await sure(api.GET("/api/entries/{id}/presence", { params: { path: { id: this.id } } }));
      this.#see(found.items);
    } catch {
      // Presence is a courtesy: what it cannot say is said by the live dot.
    }
  }

  in(field: string): Present[] {
    return this.others.filter(
      (one) => one.field === field && one.locale === this.locale && one.strand === this.strand,
    );
  }

  async #tell(): Promise<void> {
    if (this.#left) return;
    try {
      const { page, locale, strand } = this;
      const body = { page, locale, strand, field: this.#field, typing: this.#typing };
      const found = await sure(
        api.PUT("/api/entries/{id}/presence", { params: { path: { id: this.id } }, body }),
      );
      this.#see(found.items);
    } catch {
      this.others = [];
    }
  }

  #see(items: Present[]): void {
    this.others = items.filter((one) => one.page !== this.page);
  }

  #leave(): void {
    this.#left = true;
    void fetch(`/api/presence/${this.page}`, { method: "DELETE", keepalive: true }).catch(() => undefined);
  }
}
