import type { EntryCount } from "../../lib/api";

/** How words are counted: by how much of them is known. */
export const KINDS = [
  "no match",
  "75–84",
  "85–94",
  "95–99",
  "exact",
  "in context",
  "repeated",
  "without words",
] as const;

/** What a language of a commission holds; `cost` is an amount to a hundredth, as text. */
export interface Sum {
  units: number;
  fresh: number;
  changed: number;
  away: number;
  words: number;
  by: Record<string, number>;
  cost: string;
  currency: string;
  /** Why it could not be sent as it is. */
  trouble: string;
}
export const NOTHING: Sum = {
  units: 0,
  fresh: 0,
  changed: 0,
  away: 0,
  words: 0,
  by: {},
  cost: "0.00",
  currency: "",
  trouble: "",
};

/** A sum with what more entries hold. Money is added in hundredths, so that no fraction is lost. */
export function added(sum: Sum, items: EntryCount[], currency: string): Sum {
  const out = { ...sum, by: { ...sum.by }, currency: currency || sum.currency };
  let hundredths = Math.round(Number(sum.cost) * 100);
  for (const one of items) {
    out.units += one.units;
    out.fresh += one.new;
    out.changed += one.changed;
    out.away += one.away;
    for (const [kind, count] of Object.entries(one.words)) {
      out.by[kind] = (out.by[kind] ?? 0) + count;
      if (kind !== "without words") out.words += count;
    }
    hundredths += Math.round(Number(one.cost || 0) * 100);
  }
  out.cost = (hundredths / 100).toFixed(2);
  return out;
}
