import { getContext, setContext } from "svelte";
import { api, pages, type Comment } from "../api";

/** The words of a passage with some before and after (Web Annotation Data Model, section 4.2.4). */
export interface Quote {
  exact: string;
  prefix: string;
  suffix: string;
}

/** What is said about an entry that is open: the comments, and the one that is about to be made. */
export class Comments {
  all = $state.raw<Comment[]>([]);
  /** The field and words that the next comment is about. */
  field = $state("");
  quote = $state.raw<Quote | null>(null);
  /** The comment that is looked at. */
  at = $state("");
  opened = $state(0);

  constructor(
    private readonly id: () => string,
    private readonly locale: () => string,
    readonly strand: string,
  ) {}

  async load(): Promise<void> {
    const path = { id: this.id(), locale: this.locale() };
    const found = await pages((query) =>
      api.GET("/api/entries/{id}/{locale}/comments", {
        params: { path, query: { ...query, strand: this.strand } },
      }),
    );
    this.all = found.items;
  }

  /** Comments on a field that are open, and about the text that is looked at. */
  on(field: string): Comment[] {
    return this.all.filter(
      (one) => !one.resolved_at && !this.elsewhere(one) && one.field.split(":")[0] === field,
    );
  }

  /** Whether a comment is about the text of another strand. */
  elsewhere(one: Comment): boolean {
    return one.strand !== "" && one.strand !== this.strand;
  }

  /** Begin a comment on a field, and on the words of it that are chosen. */
  begin(field: string, quote: Quote | null): void {
    this.field = field;
    this.quote = quote;
    this.at = "";
    this.opened++;
  }

  /** Look at a comment. */
  show(id: string): void {
    this.at = id;
    this.opened++;
  }
}

const KEY = Symbol("comments");

export function commentsOn(comments: Comments): Comments {
  return setContext(KEY, comments);
}

/** The comments about the entry around, if there is one. */
export function commentsHere(): Comments | undefined {
  return getContext<Comments | undefined>(KEY);
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
  const paragraph = start?.closest("p, h2, h3, h4, li, td, th, figcaption");
  if (!paragraph || !element.contains(paragraph)) return null;
  if (!paragraph.contains(range.endContainer)) range.setEndAfter(paragraph.lastChild ?? paragraph);
  const before = document.createRange();
  before.selectNodeContents(paragraph);
  before.setEnd(range.startContainer, range.startOffset);
  const from = before.toString().length;
  return around(paragraph.textContent ?? "", from, from + range.toString().length);
}

function around(text: string, from: number, to: number): Quote | null {
  const exact = text.slice(from, to);
  if (!exact.trim()) return null;
  return { exact, prefix: text.slice(Math.max(0, from - AROUND), from), suffix: text.slice(to, to + AROUND) };
}
