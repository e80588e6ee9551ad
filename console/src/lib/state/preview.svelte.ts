import { api, Problem, sure, type PageAddress } from "../api";

/** A place on a previewed page that shows a field: `mark` is the entry's id, a slash and the field's path. */
export interface Mark {
  mark: string;
  name: string;
}

interface Said {
  hawthorn: 1;
  kind: string;
  page?: string;
  title?: string;
  href?: string;
  mark?: string;
  words?: string;
  part?: number;
  marks?: Mark[];
}

/** What a preview is opened on. */
export interface Place {
  stage: string;
  at: string;
  strand: string;
  /** The dispatch that is shown as if it had gone, in place of a stage and an instant. */
  dispatch?: string;
}

const PAUSE = 220;
const originOf = (address: string): string => /^https?:\/\/[^/]+/.exec(address)?.[0] ?? "";

/**
 * One preview of one person: a pane of the service, the addresses that carry it, and the talk with the page in a frame. What
 * is typed is sent to the pane after a short pause, and the page is told.
 */
export class Preview {
  addresses = $state.raw<PageAddress[]>([]);
  marks = $state.raw<Mark[]>([]);
  /** Whether the page has the script; one without it is loaded anew. */
  joined = $state(false);
  page = $state("");
  title = $state("");
  error = $state<unknown>(null);
  problems = $state.raw<{ field: string; problem: string }[]>([]);
  onChosen: (mark: string, words: string) => void = () => {};
  onScrolled: (part: number) => void = () => {};
  #pane: string | null = null;
  #place: Place = { stage: "draft", at: "", strand: "" };
  #frame: HTMLIFrameElement | null = null;
  #origin = "";
  #pending: ReturnType<typeof setTimeout> | undefined;
  #sent = "";
  #heard = false;
  #silent: ReturnType<typeof setTimeout> | undefined;

  /** Open a pane and learn the addresses of an entry's page. */
  async open(entry: string, locale: string, place: Place): Promise<void> {
    this.close();
    this.addresses = [];
    this.#place = place;
    try {
      const pane = await sure(api.POST("/api/previews", { body: { dispatch: "", ...place } }));
      this.#pane = pane.id;
      await this.look(entry, locale);
      this.error = null;
    } catch (error) {
      this.error = error;
    }
  }

  /** Learn the addresses again: a draft gets another one with its title. */
  async look(entry: string, locale: string): Promise<void> {
    if (!this.#pane) return;
    const path = { id: entry, locale };
    const found = await sure(
      api.GET("/api/entries/{id}/{locale}/addresses", { params: { path, query: { preview: this.#pane } } }),
    );
    // A draft gets another address with another title; the page that is looked at stays where it was opened.
    this.addresses = found.items.map((now) => {
      const before = this.addresses.find((one) => one.site === now.site);
      return before && !before.missing.length && now.stage !== "release" ? before : now;
    });
  }

  /** Show what is typed, soon. */
  type(entry: string, locale: string, fields: Record<string, unknown>): void {
    const key = JSON.stringify([entry, locale, fields]);
    if (key === this.#sent) return;
    clearTimeout(this.#pending);
    this.#pending = setTimeout(() => void this.#send(entry, locale, fields, key), PAUSE);
  }

  async #send(entry: string, locale: string, fields: Record<string, unknown>, key: string): Promise<void> {
    const id = this.#pane;
    if (!id || key === this.#sent) return;
    const nothing = this.#sent === "" && Object.keys(fields).length === 0;
    this.#sent = key;
    if (nothing) return;
    try {
      const body = { entry, locale, fields };
      const answer = await sure(api.PUT("/api/previews/{id}/typed", { params: { path: { id } }, body }));
      this.problems = answer.problems;
      this.changed();
    } catch (error) {
      this.#sent = "";
      // Half a day went by, or somebody logged out elsewhere: begin anew, with what is typed.
      if (error instanceof Problem && error.slug === "not-found" && this.#pane === id) {
        await this.open(entry, locale, this.#place);
        this.type(entry, locale, fields);
      } else this.error = error;
    }
  }

  /** The page is to be shown anew: by its script in its place, else by loading it again. */
  changed(): void {
    if (this.joined) this.tell({ kind: "changed" });
    else if (this.#frame) this.#frame.src = String(this.#frame.src);
  }

  /** Take a frame that shows an address; returns what ends the talk with it. */
  attach(frame: HTMLIFrameElement, address: string): () => void {
    this.#frame = frame;
    this.#origin = originOf(address);
    this.joined = false;
    this.marks = [];
    const hear = (event: MessageEvent<Said>) => {
      if (event.source !== frame.contentWindow || event.origin !== this.#origin) return;
      if (event.data?.hawthorn === 1) this.#hear(event.data);
    };
    addEventListener("message", hear);
    return () => {
      removeEventListener("message", hear);
      if (this.#frame === frame) this.#frame = null;
    };
  }

  #hear(said: Said): void {
    this.#heard = true;
    if (said.kind === "ready" || said.kind === "page") {
      this.joined = true;
      this.marks = said.marks ?? [];
      this.page = said.page ?? "";
      this.title = said.title ?? "";
    } else if (said.kind === "chosen" && said.mark) this.onChosen(said.mark, String(said.words ?? ""));
    else if (said.kind === "scrolled") this.onScrolled(said.part ?? 0);
  }

  /** Say something to the page, once it has said that it hears. */
  tell(said: Record<string, unknown>): void {
    if (this.joined) this.#frame?.contentWindow?.postMessage({ hawthorn: 1, ...said }, this.#origin);
  }

  /** A page has been loaded: greet it. One without the script does not answer. */
  loaded(): void {
    this.#heard = false;
    // A greeting says nothing, so it may be said before it is known who hears it.
    this.#frame?.contentWindow?.postMessage({ hawthorn: 1, kind: "hello" }, "*");
    clearTimeout(this.#silent);
    this.#silent = setTimeout(() => {
      if (!this.#heard) this.joined = false;
    }, 1000);
  }

  /** The places that show a field of an entry, or a part of it: each name once. */
  placesOf(entry: string, field: string): Mark[] {
    const start = `${entry}/${field}`;
    const found = this.marks.filter(({ mark }) => mark === start || mark.startsWith(`${start}:`));
    return found.filter(
      (one, n) => found.findIndex((other) => other.mark === one.mark && other.name === one.name) === n,
    );
  }

  close(): void {
    clearTimeout(this.#pending);
    clearTimeout(this.#silent);
    const id = this.#pane;
    this.#pane = null;
    this.#sent = "";
    this.marks = [];
    if (id) void api.DELETE("/api/previews/{id}", { params: { path: { id } } }).catch(() => {});
  }
}

/** Put the cursor where a mark leads: a field of the form, or a place in one of its blocks. */
export function focusMark(path: string): boolean {
  const [field, ...inner] = path.split(":");
  const home = document.querySelector<HTMLElement>(`[data-field="${CSS.escape(field ?? "")}"]`);
  if (!home) return false;
  let place: HTMLElement = home;
  for (const part of inner) {
    place = place.querySelector<HTMLElement>(`[data-block="${CSS.escape(part)}"]`) ?? place;
  }
  const last = inner.at(-1);
  const control = last ? place.querySelector<HTMLElement>(`[id$="-${CSS.escape(last)}"]`) : null;
  const inputs =
    "input:not([type=hidden]), textarea, select:not([data-head]), [contenteditable=true], button:not([data-handle])";
  const target = control?.matches(inputs)
    ? control
    : ((control ?? place).querySelector<HTMLElement>(inputs) ?? control ?? place);
  target.scrollIntoView({ block: "center" });
  target.focus({ preventScroll: true });
  return true;
}
