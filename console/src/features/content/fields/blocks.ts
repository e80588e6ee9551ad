import type { FieldSpec } from "../../../lib/api";
import { plain } from "../plain";

/** A block, or a member of a repeated group (which has no kind). */
export interface Block {
  id: string;
  kind?: string;
  fields: Record<string, unknown>;
}

// One start for all that a page puts in, so that what two people put into one place keeps together.
const run = `b${Math.random().toString(36).slice(2, 9)}`;
let turn = 0;

/** A new block of a kind, with the fixed defaults of its fields. */
export function fresh(spec: FieldSpec, kind?: string): Block {
  turn += 1;
  const id = `${run}-${String(turn).padStart(3, "0")}`;
  const specs = kind ? (spec.blocks?.find((form) => form.name === kind)?.fields ?? []) : (spec.fields ?? []);
  const fields = Object.fromEntries(
    specs.filter((one) => one.default != null).map((one) => [one.name, one.default]),
  );
  return kind ? { id, kind, fields } : { id, fields };
}

/** A copy with ids of its own, for it and all that lies in it. */
export function copied(block: Block): Block {
  turn += 1;
  const fields = Object.fromEntries(
    Object.entries(block.fields).map(([name, value]) => [
      name,
      Array.isArray(value) && value.every((one) => one && typeof one === "object" && "fields" in one)
        ? value.map((one) => copied(one as Block))
        : value,
    ]),
  );
  return { ...block, id: `${run}-${String(turn).padStart(3, "0")}`, fields };
}

/** A list with one thing moved to another place. */
export function moved<T>(list: T[], from: number, to: number): T[] {
  const out = [...list];
  const [one] = out.splice(from, 1);
  if (one !== undefined) out.splice(to, 0, one);
  return out;
}

/** The first words of a block, to know it by when it is folded. */
export function opening(block: Block): string {
  for (const value of Object.values(block.fields)) {
    if (typeof value === "string" && value) {
      const text = value.startsWith("<") ? plain(value) : value;
      if (text.trim() && !/^[0-9a-f-]{36}$/.test(text)) return text.trim().slice(0, 80);
    }
  }
  return "";
}

const words = ["line", "text", "rich"];

/**
 * What of a block's values fits another kind: fields of the same name and kind, then others of the same kind in order, then
 * words in any field of words. `lost` names what has no place there.
 */
export function fitting(
  from: FieldSpec[],
  to: FieldSpec[],
  values: Record<string, unknown>,
): { fields: Record<string, unknown>; lost: string[] } {
  const fields: Record<string, unknown> = {};
  const left = new Set(
    Object.keys(values).filter((name) => values[name] !== undefined && values[name] !== null),
  );
  const kindOf = (name: string) =>
    from.find((one) => one.name === name)?.kind ?? to.find((one) => one.name === name)?.kind;
  const put = (target: FieldSpec, name: string, value: unknown): void => {
    fields[target.name] = value;
    left.delete(name);
  };
  for (const target of to)
    if (left.has(target.name) && kindOf(target.name) === target.kind)
      put(target, target.name, values[target.name]);
  const free = () => to.filter((one) => !(one.name in fields) && !one.option);
  for (const target of free()) {
    const same = [...left].find(
      (name) =>
        kindOf(name) === target.kind &&
        fits(
          from.find((one) => one.name === name),
          target,
        ),
    );
    if (same) put(target, same, values[same]);
  }
  for (const target of free().filter((one) => words.includes(one.kind))) {
    const other = [...left].find((name) => words.includes(kindOf(name) ?? ""));
    if (other) put(target, other, converted(String(values[other]), kindOf(other)!, target.kind));
  }
  return { fields, lost: [...left].filter((name) => from.some((one) => one.name === name)) };
}

function fits(from: FieldSpec | undefined, to: FieldSpec): boolean {
  if (!from || from.option || from.many !== to.many) return false;
  return to.types.length === 0 || from.types.every((type) => to.types.includes(type));
}

/** Words of one kind as those of another: paragraphs as lines, lines as paragraphs. */
function converted(text: string, from: string, to: string): string {
  if (from === "rich" && to !== "rich") {
    const body = new DOMParser().parseFromString(text, "text/html").body;
    const lines = [...body.children].map((one) => one.textContent?.trim() ?? "").filter(Boolean);
    return lines.join(to === "line" ? " " : "\n");
  }
  if (to === "rich" && from !== "rich") {
    const safe = (line: string) => line.replace(/&/g, "&amp;").replace(/</g, "&lt;");
    return text
      .split("\n")
      .filter(Boolean)
      .map((line) => `<p>${safe(line)}</p>`)
      .join("");
  }
  return to === "line" ? text.replace(/\s+/g, " ") : text;
}
