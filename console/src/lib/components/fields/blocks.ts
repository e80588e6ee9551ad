import type { FieldSpec } from "../../api";

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
      const text = value.startsWith("<")
        ? (new DOMParser().parseFromString(value, "text/html").body.textContent ?? "")
        : value;
      if (text.trim() && !/^[0-9a-f-]{36}$/.test(text)) return text.trim().slice(0, 80);
    }
  }
  return "";
}
