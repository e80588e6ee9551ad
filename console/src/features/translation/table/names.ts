import "../../../messages/translation";
import type { SegmentLine, SegmentTag } from "../../../lib/api";
import { t } from "../../../lib/i18n";

/** The keys of the table, as they are printed. */
export const KEYS = {
  finish: "Ctrl+Enter",
  reviewed: "Ctrl+Shift+Enter",
  step: "Alt+↓ Alt+↑",
  next: "Alt+N",
  copy: "Alt+C",
  match: "Alt+V",
  machine: "Alt+M",
  word: "Alt+G",
  tag: "Alt+1…9",
};

/** A sentence's name in the job. */
export const nameOf = (one: SegmentLine): string => `${one.entry} ${one.key} ${one.segment}`;

const KNOWN = new Set(["strong", "em", "s", "code", "sub", "sup", "br", "a", "span"]);

/** What a tag is called: what it does, and its number, by which messages name it. */
export function tagName(tags: readonly SegmentTag[], id: string, of = ""): string {
  const name = tags.find((one) => one.id === id || one.id === of)?.name ?? of;
  return KNOWN.has(name) ? `${t(`table.tag.${name}`)} ${id}` : `${name} ${id}`.trim();
}
