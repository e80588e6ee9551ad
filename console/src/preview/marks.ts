/**
 * Joins a previewed page to the console, and shows changes without losing scroll or state. Sites load it from the service
 * on pages that show drafts: `<script src="https://the-service/preview/marks.js" defer></script>`. What it says and hears is
 * described in docs/preview.md. It talks to the console at the origin that it was loaded from, and to those named in
 * `data-console`, and to nobody else.
 */
import { Idiomorph } from "idiomorph";

interface Said {
  hawthorn: 1;
  kind: string;
  [key: string]: unknown;
}

const MARK = "data-hawthorn";
/** What the words that somebody works on are called among the browser's highlights. */
const SPOKEN = "hawthorn-words";
const own = document.currentScript as HTMLScriptElement | null;
const service = own ? new URL(own.src).origin : "";
const consoles = new Set([service, ...(own?.dataset.console ?? "").split(/\s+/).filter(Boolean)]);
const preview = new URLSearchParams(location.search).get("preview") ?? "";
const framed = window.parent !== window;

function say(kind: string, more: Record<string, unknown> = {}): void {
  if (!framed) return;
  // A message goes to the console or nowhere: the browser drops it for a parent of any other origin.
  for (const origin of consoles) window.parent.postMessage({ hawthorn: 1, kind, ...more }, origin);
}

function marked(): HTMLElement[] {
  return [...document.querySelectorAll<HTMLElement>(`[${MARK}]`)];
}

/** What a place is called: its own name, else what it is and how it begins. */
function nameOf(element: HTMLElement): string {
  const given = element.getAttribute(`${MARK}-name`);
  if (given) return given;
  const heading = /^H[1-6]$/.test(element.tagName) ? "Heading" : "";
  const region = element.closest("nav, header, footer, aside, main")?.tagName.toLowerCase() ?? "";
  const where = { nav: "Menu", header: "Top", footer: "Foot", aside: "Beside", main: "Text" }[region] ?? "";
  if (heading && region === "main") return heading;
  const words = (element.textContent ?? "").trim().replace(/\s+/g, " ");
  const begins = words.length > 26 ? `${words.slice(0, 24).trim()}…` : words;
  const what = element.tagName === "IMG" ? "Picture" : where || element.tagName.toLowerCase();
  return begins && !heading ? `${what}: ${begins}` : what;
}

function tell(kind = "page"): void {
  say(kind, {
    page: document.documentElement.getAttribute(`${MARK}-page`) ?? "",
    title: document.title,
    href: location.href,
    height: document.documentElement.scrollHeight,
    marks: marked().map((one) => ({ mark: one.getAttribute(MARK), name: nameOf(one) })),
  });
}

// --- What has changed is fetched and laid over the page as it stands. ---

let fetching = false;
let again = false;

async function refresh(): Promise<void> {
  if (!dispatchEvent(new CustomEvent("hawthorn:changed", { cancelable: true }))) return;
  if (fetching) {
    again = true;
    return;
  }
  fetching = true;
  try {
    const answer = await fetch(location.href, { cache: "no-store" });
    if (!answer.ok && answer.status !== 404) return;
    const next = new DOMParser().parseFromString(await answer.text(), "text/html");
    document.title = next.title;
    for (const { name, value } of next.documentElement.attributes)
      document.documentElement.setAttribute(name, value);
    Idiomorph.morph(document.body, next.body, {
      morphStyle: "outerHTML",
      ignoreActiveValue: true,
      restoreFocus: true,
    });
    place();
    tell();
    dispatchEvent(new CustomEvent("hawthorn:shown"));
  } catch {
    // The site may be away for a moment; the next change tries again.
  } finally {
    fetching = false;
    if (again) {
      again = false;
      void refresh();
    }
  }
}

// --- Marks: a part of the page leads to its field. ---

let shown = false;
let over: HTMLElement | null = null;
/** What exactly the pointer was on last. */
let under: Element | null = null;
const host = document.createElement("hawthorn-mark");
const inside = host.attachShadow({ mode: "open" });
const button = document.createElement("button");
const styles = new CSSStyleSheet();
styles.replaceSync(`
  :host { position: absolute; z-index: 2147483000; display: none }
  button { font: 600 13px/1 system-ui, sans-serif; padding: 5px 9px; border: 2px solid #fff; border-radius: 5px;
    background: #2f5d46; color: #fff; cursor: pointer; box-shadow: 0 1px 4px #0006 }
  button:focus-visible { outline: 3px solid #44617b }
`);
inside.adoptedStyleSheets = [styles];
button.type = "button";
button.textContent = document.documentElement.lang.startsWith("en") ? "Edit" : "✎";
button.setAttribute("aria-label", "Edit this in its field");
inside.append(button);
const around = new CSSStyleSheet();
around.replaceSync(`
  [${MARK}].hawthorn-over { outline: 2px dashed #2f5d46; outline-offset: 3px }
  [${MARK}].hawthorn-shown { outline: 3px solid #44617b; outline-offset: 3px }
  ::highlight(${SPOKEN}) { background: #f4d772; color: #1e2a24 }
`);
document.adoptedStyleSheets = [...document.adoptedStyleSheets, around];

function place(): void {
  if (!over?.isConnected || !shown) {
    host.style.display = "none";
    return;
  }
  const box = over.getBoundingClientRect();
  host.style.display = "block";
  host.style.top = `${Math.max(box.top + scrollY - 14, scrollY)}px`;
  host.style.left = `${Math.max(box.left + scrollX, 0)}px`;
}

function hover(element: HTMLElement | null): void {
  if (element === over) return;
  over?.classList.remove("hawthorn-over");
  over = element;
  if (shown) over?.classList.add("hawthorn-over");
  place();
}

/** The words of the line that the pointer is on, or of the whole place. */
function wordsAt(element: HTMLElement, target: Element | null): string {
  const line = target?.closest<HTMLElement>("p, li, td, th, figcaption, h1, h2, h3, h4, h5, h6, blockquote");
  return ((line && element.contains(line) ? line : element).textContent ?? "").trim().slice(0, 5000);
}

function choose(element: HTMLElement, target: Element | null = null): void {
  say("chosen", { mark: element.getAttribute(MARK), words: wordsAt(element, target) });
}

/** Where a field is shown several times, each asking goes to the next. */
const turns = new Map<string, number>();

/** Mark words within a place, as far as the browser can mark words without changing the page; says where they stand. */
function markWords(one: HTMLElement, words: string): Range | null {
  CSS.highlights?.delete(SPOKEN);
  if (!words.trim() || !CSS.highlights) return null;
  const walker = document.createTreeWalker(one, NodeFilter.SHOW_TEXT);
  const nodes: { node: Text; start: number }[] = [];
  let text = "";
  while (walker.nextNode()) {
    const node = walker.currentNode as Text;
    nodes.push({ node, start: text.length });
    text += node.data;
  }
  const from = text.indexOf(words.trim());
  if (from < 0) return null;
  const place = (at: number): [Text, number] => {
    const found = nodes.findLast((part) => part.start <= at)!;
    return [found.node, at - found.start];
  };
  const range = new Range();
  range.setStart(...place(from));
  range.setEnd(...place(from + words.trim().length));
  CSS.highlights.set(SPOKEN, new Highlight(range));
  return range;
}

/** Show where a mark is: each asking goes to the next of several, unless the `first` that says some words is meant. */
function show(mark: string, words = "", first = false): void {
  const all = marked();
  for (const one of all) one.classList.remove("hawthorn-shown");
  const wanted = all.filter((one) => one.getAttribute(MARK) === mark);
  const turn = first ? 0 : (turns.get(mark) ?? 0);
  const saying = words ? wanted.find((each) => each.textContent?.includes(words.trim())) : undefined;
  const one = saying ?? wanted[turn % Math.max(wanted.length, 1)];
  if (!one) return;
  turns.set(mark, turn + 1);
  const range = markWords(one, words);
  const still = matchMedia("(prefers-reduced-motion: reduce)").matches;
  const line = range?.startContainer.parentElement ?? one;
  line.scrollIntoView({ block: "center", behavior: still ? "auto" : "smooth" });
  if (range) return;
  one.classList.add("hawthorn-shown");
  setTimeout(() => one.classList.remove("hawthorn-shown"), 2500);
}

button.addEventListener("click", () => over && choose(over, under));
document.addEventListener("mouseover", (event) => {
  const target = event.target as Element | null;
  if (target === host) return;
  under = target;
  hover(target?.closest<HTMLElement>(`[${MARK}]`) ?? null);
});
document.addEventListener("focusin", (event) => {
  const target = event.target as Element | null;
  if (target !== host) hover(target?.closest<HTMLElement>(`[${MARK}]`) ?? null);
});
document.addEventListener(
  "click",
  (event) => {
    const target = event.target as Element | null;
    const element = target?.closest<HTMLElement>(`[${MARK}]`);
    if (shown && event.altKey && element) {
      event.preventDefault();
      choose(element, target);
      return;
    }
    keep(target?.closest("a"));
  },
  true,
);

/** Links of this site keep what the preview shows; it needs no cookie for that. */
function keep(link: HTMLAnchorElement | null | undefined): void {
  if (!preview || !link || link.origin !== location.origin) return;
  const to = new URL(link.href);
  if (!to.searchParams.has("preview")) {
    to.searchParams.set("preview", preview);
    link.href = to.href;
  }
}

// --- Messages: from the console alone. ---

addEventListener("message", (event: MessageEvent<Said>) => {
  if (event.source !== window.parent || !consoles.has(event.origin) || event.data?.hawthorn !== 1) return;
  const said = event.data;
  if (said.kind === "hello") tell();
  else if (said.kind === "changed") void refresh();
  else if (said.kind === "show") show(String(said.mark), String(said.words ?? ""), said.first === true);
  else if (said.kind === "marks") {
    shown = said.on === true;
    if (!shown) over?.classList.remove("hawthorn-over");
    place();
  } else if (said.kind === "scroll") {
    scrolled = performance.now();
    scrollTo({ top: Number(said.part) * (document.documentElement.scrollHeight - innerHeight) });
  }
});

let scrolled = 0;
addEventListener(
  "scroll",
  () => {
    place();
    // What the console asked for is not said back to it.
    if (performance.now() - scrolled < 150) return;
    const room = document.documentElement.scrollHeight - innerHeight;
    say("scrolled", { part: room > 0 ? scrollY / room : 0 });
  },
  { passive: true },
);

// --- Without the console, who holds a link sees changes too: live, or by asking where long connections fail. ---

function follow(): void {
  if (framed || !preview || !service) return;
  const asked = `preview=${encodeURIComponent(preview)}`;
  let failed = 0;
  const source = new EventSource(`${service}/read/changes?${asked}`);
  source.addEventListener("changed", () => void refresh());
  source.onopen = () => (failed = 0);
  source.onerror = () => {
    failed += 1;
    // One that was refused is not tried again by the browser.
    if (failed < 3 && source.readyState !== EventSource.CLOSED) return;
    source.close();
    void refresh();
    let seq = 0;
    const ask = async (): Promise<void> => {
      try {
        const answer = await fetch(`${service}/read/changes/last?${asked}&since=${seq}`);
        if (answer.status === 403) return void refresh();
        const found = (await answer.json()) as { seq: number; changed: boolean };
        seq = found.seq;
        if (found.changed) void refresh();
      } catch {
        // Asked again below.
      }
      setTimeout(() => void ask(), 10_000);
    };
    void ask();
  };
}

document.documentElement.append(host);
tell("ready");
follow();
