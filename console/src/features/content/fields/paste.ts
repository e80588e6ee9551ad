const INLINE: [RegExp, string][] = [
  [/font-weight:\s*(bold|[6-9]00)/i, "strong"],
  [/font-style:\s*italic/i, "em"],
  [/text-decoration[^;]*line-through/i, "s"],
  [/vertical-align:\s*super/i, "sup"],
  [/vertical-align:\s*sub/i, "sub"],
];

/**
 * What word processors and web pages put on the clipboard, as plain structure: styles become marks, paragraphs that only
 * look like list items become lists, and what is only dressing goes. The service sanitises what is saved in any case.
 */
export function cleaned(html: string): string {
  const body = new DOMParser().parseFromString(
    html.replace(/<!--\[if[\s\S]*?<!\[endif\]-->|<\/?o:p[^>]*>/gi, ""),
    "text/html",
  ).body;
  body.querySelectorAll("style, script, meta, link, title, xml").forEach((node) => node.remove());
  comments(body);
  lists(body);
  headings(body);
  cells(body);
  for (const node of [...body.querySelectorAll<HTMLElement>("span, font, b, i")].reverse()) marked(node);
  for (const node of body.querySelectorAll("*")) tidy(node);
  return body.innerHTML.replace(/\u00a0/g, " ");
}

/** What of pasted markup a text cannot keep, by the name of its message: said to whoever pastes, as it goes. */
export function gone(html: string): string[] {
  const body = new DOMParser().parseFromString(html, "text/html").body;
  const wanted: [string, string][] = [
    ["joined", '[colspan]:not([colspan="1"]), [rowspan]:not([rowspan="1"])'],
    ["page", "iframe, embed, object"],
    ["film", "video, audio"],
    ["drawing", "svg, canvas, math"],
    ["form", "form, input, select, textarea, button"],
    ["underline", "u"],
    ["picture", 'img[src^="data:"], img[src^="file:"], img[src^="blob:"], img:not([src])'],
  ];
  return wanted.filter(([, selector]) => body.querySelector(selector)).map(([name]) => name);
}

function comments(body: HTMLElement): void {
  const walker = document.createTreeWalker(body, NodeFilter.SHOW_COMMENT);
  const found: Node[] = [];
  while (walker.nextNode()) found.push(walker.currentNode);
  found.forEach((node) => node.parentNode?.removeChild(node));
}

/** Paragraphs that a word processor numbers or bullets by style, as items of one list. */
function lists(body: HTMLElement): void {
  let open: { list: HTMLElement; level: number }[] = [];
  for (const node of [...body.querySelectorAll<HTMLElement>("p")]) {
    const style = node.getAttribute("style") ?? "";
    const level = /mso-list:[^;]*level(\d+)/i.exec(style)?.[1];
    if (!level) {
      open = [];
      continue;
    }
    const marker = node.querySelector<HTMLElement>('[style*="mso-list:Ignore"], [style*="mso-list: Ignore"]');
    const ordered = /^\s*(\d+|[a-z]|[ivx]+)[.)]/i.test(marker?.textContent ?? "");
    marker?.remove();
    const deep = Number(level);
    if (node.previousElementSibling !== open[0]?.list) open = [];
    while (open.length > deep) open.pop();
    while (open.length < deep) {
      const list = document.createElement(ordered ? "ol" : "ul");
      const around = open[open.length - 1]?.list;
      if (around) (around.lastElementChild ?? around).append(list);
      else node.before(list);
      open.push({ list, level: open.length + 1 });
    }
    const item = document.createElement("li");
    item.append(...node.childNodes);
    open[open.length - 1]!.list.append(item);
    node.remove();
  }
}

/** Headings at the levels that a text has, and paragraphs that are headings by style alone. */
function headings(body: HTMLElement): void {
  for (const [from, to] of [
    ["h1", "h2"],
    ["h5", "h4"],
    ["h6", "h4"],
  ] as const) {
    for (const node of body.querySelectorAll(from)) {
      const heading = document.createElement(to);
      heading.append(...node.childNodes);
      node.replaceWith(heading);
    }
  }
  for (const node of body.querySelectorAll<HTMLElement>('p[class*="Heading"], p[class*="Title"]')) {
    const level = /Heading(\d)/.exec(node.className)?.[1] ?? "1";
    const heading = document.createElement(Number(level) > 1 ? "h3" : "h2");
    heading.append(...node.childNodes);
    node.replaceWith(heading);
  }
}

/** What stands in a cell, as words with line breaks: a table within one by its words, and pictures after the table. */
function cells(body: HTMLElement): void {
  for (const cell of [...body.querySelectorAll<HTMLElement>("td, th")].reverse()) {
    for (const picture of [...cell.querySelectorAll("figure, img")].reverse())
      if (picture.isConnected) cell.closest("table")!.after(picture);
    for (const block of [
      ...cell.querySelectorAll("p, div, li, ul, ol, h2, h3, h4, blockquote, table, tbody, tr, td, th"),
    ].reverse()) {
      const before = block.previousSibling;
      if (before?.textContent?.trim()) block.before(document.createElement("br"));
      block.replaceWith(...block.childNodes);
    }
  }
}

function marked(node: HTMLElement): void {
  const style = node.getAttribute("style") ?? "";
  const plain = /font-weight:\s*(normal|[1-4]00)|font-style:\s*normal/i.test(style);
  const keeps = (node.tagName === "B" || node.tagName === "I") && !plain;
  const wanted = keeps ? [] : INLINE.filter(([looks]) => looks.test(style)).map(([, tag]) => tag);
  if (keeps) return;
  if (node.tagName === "SPAN" && (node.lang || node.dir) && node.textContent?.trim() && !wanted.length)
    return;
  const inside = [...node.childNodes];
  if (!wanted.length || !node.textContent?.trim()) {
    node.replaceWith(...inside);
    return;
  }
  let around: HTMLElement | null = null;
  let innermost: HTMLElement | null = null;
  for (const tag of wanted) {
    const one = document.createElement(tag);
    if (innermost) innermost.append(one);
    else around = one;
    innermost = one;
  }
  innermost!.append(...inside);
  node.replaceWith(around!);
}

function tidy(node: Element): void {
  const keep = { A: ["href"], IMG: ["src"], SPAN: ["lang", "dir"], HR: ["class"] }[node.tagName] ?? [];
  for (const one of [...node.attributes]) if (!keep.includes(one.name)) node.removeAttribute(one.name);
  const empty = !node.textContent?.trim() && !node.querySelector("img, hr, br");
  if (empty && /^(P|DIV|H[1-6]|LI)$/.test(node.tagName)) node.remove();
}
