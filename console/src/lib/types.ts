import type { components } from "./api/schema";

export type FieldSpec = components["schemas"]["FieldSpec"];
export type BlockSpec = components["schemas"]["BlockSpec"];

/** A field, group or block as somebody defines it: what is not given is as usual. */
export type Draft = Partial<Omit<FieldSpec, "fields" | "blocks">> & {
  name: string;
  kind: FieldSpec["kind"];
  fields?: Draft[];
  blocks?: { name: string; label?: string; help?: string; arranges?: string; fields: Draft[] }[];
};

/** A definition as it is sent: without what is empty or usual. */
export function slim(draft: Draft): Draft {
  const out: Record<string, unknown> = {};
  for (const [key, value] of Object.entries(draft)) {
    const usual =
      value === null ||
      value === undefined ||
      value === "" ||
      // What is true unless somebody says otherwise.
      value === ["public", "translate"].includes(key);
    if (usual || key === "set" || (Array.isArray(value) && !value.length)) continue;
    out[key] = value;
  }
  if (draft.fields?.length) out.fields = draft.fields.map(slim);
  if (draft.blocks?.length)
    out.blocks = draft.blocks.map((one) => ({ ...one, fields: one.fields.map(slim) }));
  return out as Draft;
}

/** A name for programs from what people call it. */
export function named(label: string, taken: string[]): string {
  const base =
    label
      .normalize("NFKD")
      .replace(/[\u0300-\u036f]/g, "")
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, "_")
      .replace(/^[^a-z]+|_+$/g, "")
      .slice(0, 40) || "field";
  let name = base;
  for (let n = 2; taken.includes(name); n++) name = `${base}_${n}`;
  return name;
}
