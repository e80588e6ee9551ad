import { api, once, sure, type Dispatch, type MoveLine, type WhenAsk } from "../../lib/api";
import type { components } from "../../lib/api/schema";

export type MoveAsk = components["schemas"]["MoveAsk"];
export type DispatchAsk = components["schemas"]["DispatchAsk"];

/** A move to ask for: a release of what is approved now, unless more is said. */
export function moveOf(id: string, locale: string, more: Partial<MoveAsk> = {}): MoveAsk {
  return { id, locale, verb: "release", regress: false, payload: {}, follows: false, ...more };
}

/** The same moves in exactly the revisions in which they are shown; what follows brings what is approved by then. */
export function asShown(moves: MoveAsk[], lines: MoveLine[]): MoveAsk[] {
  return moves.map((move) => {
    const line = lines.find((one) => one.id === move.id && one.locale === move.locale && !one.along);
    const brings = !move.follows && ["release", "advance"].includes(move.verb);
    return brings && line?.after ? { ...move, revision: line.after } : move;
  });
}

/** A dispatch to ask for: now and whole, unless more is said. */
export function dispatchOf(moves: MoveAsk[], more: Partial<DispatchAsk> = {}): DispatchAsk {
  const plain = { when: null, until: null, name: "", note: "", owner: "" };
  const usual = { with_needs: false, open: false, partial: false, override_quiet: false };
  return { moves, ...plain, ...usual, ...more };
}

/** The dispatch that was chosen (its id), or a new one of a name that is put together. */
export async function chosen(into: string, name: string): Promise<string> {
  if (into) return into;
  const body = dispatchOf([], { name, open: true });
  return (await sure(api.POST("/api/dispatches", { params: { header: once() }, body }))).id;
}

/** The time that a dispatch has, as it was given, to give it again. */
export function whenOf(one: Dispatch): WhenAsk {
  const { wall, zone } = one;
  return { wall, zone, fold: "", instant: wall ? "" : (one.instant ?? "") };
}

/** Where a strand of an entry is written. */
export function strandOf(one: { id: string; locale: string; strand: string }): string {
  return `/entries/${one.id}/${one.locale}/strands/${encodeURIComponent(one.strand)}`;
}
