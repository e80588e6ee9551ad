import { getContext, setContext } from "svelte";
import { api, pages, type Remark } from "../api";

/** The words of a passage with some before and after (Web Annotation Data Model, section 4.2.4). */
export interface Quote {
  exact: string;
  prefix: string;
  suffix: string;
}

/** What is said about an entry that is open: the remarks, and the one that is about to be made. */
export class Talk {
  remarks = $state.raw<Remark[]>([]);
  /** The field and words that the next remark is about. */
  field = $state("");
  quote = $state.raw<Quote | null>(null);
  /** The remark that is looked at. */
  at = $state("");
  opened = $state(0);

  constructor(
    private readonly id: () => string,
    private readonly locale: () => string,
  ) {}

  async load(): Promise<void> {
    const path = { id: this.id(), locale: this.locale() };
    const found = await pages((query) =>
      api.GET("/api/entries/{id}/{locale}/remarks", { params: { path, query } }),
    );
    this.remarks = found.items;
  }

  /** Remarks on a field that are open. */
  on(field: string): Remark[] {
    return this.remarks.filter((one) => !one.resolved_at && one.field.split(":")[0] === field);
  }

  /** Begin a remark on a field, and on the words of it that are chosen. */
  begin(field: string, quote: Quote | null): void {
    this.field = field;
    this.quote = quote;
    this.at = "";
    this.opened++;
  }

  /** Look at a remark. */
  show(id: string): void {
    this.at = id;
    this.opened++;
  }
}

const KEY = Symbol("talk");

export function talkAbout(talk: Talk): Talk {
  return setContext(KEY, talk);
}

/** The talk about the entry around, if there is one. */
export function talkHere(): Talk | undefined {
  return getContext<Talk | undefined>(KEY);
}

const AROUND = 60;

/** The words that are chosen in a field, as far as they lie in one paragraph of it. */
export function chosenIn(element: Element | null): Quote | null {
  if (element instanceof HTMLInputElement || element instanceof HTMLTextAreaElement) {
    const { selectionStart: from, selectionEnd: to, value } = element;
    if (from === null || to === null || from === to) return null;
    return around(value, from, to);
  }
  const selection = window.getSelection();
  if (!element || !selection || selection.isCollapsed || !selection.rangeCount) return null;
  const range = selection.getRangeAt(0).cloneRange();
  if (!element.contains(range.startContainer)) return null;
  const start =
    range.startContainer instanceof Element ? range.startContainer : range.startContainer.parentElement;
  const leaf = start?.closest("p, h2, h3, h4, li, figcaption");
  if (!leaf || !element.contains(leaf)) return null;
  if (!leaf.contains(range.endContainer)) range.setEndAfter(leaf.lastChild ?? leaf);
  const before = document.createRange();
  before.selectNodeContents(leaf);
  before.setEnd(range.startContainer, range.startOffset);
  const from = before.toString().length;
  return around(leaf.textContent ?? "", from, from + range.toString().length);
}

function around(text: string, from: number, to: number): Quote | null {
  const exact = text.slice(from, to);
  if (!exact.trim()) return null;
  return { exact, prefix: text.slice(Math.max(0, from - AROUND), from), suffix: text.slice(to, to + AROUND) };
}
