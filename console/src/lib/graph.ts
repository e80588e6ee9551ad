import type { components } from "./api/schema";

type Revision = components["schemas"]["HistoryRevision"];

/** One row of the graph: the lane of its bead, the lanes that pass, and those that lead down to its parents. */
export interface Row {
  lane: number;
  passing: number[];
  down: number[];
  draft: boolean;
}

/** Lay revisions, newest first, into lanes: a lane waits for the parent that it leads to. */
export function lanes(revisions: Revision[]): Row[] {
  const waiting: (number | null)[] = [];
  const place = (number: number): number => {
    const at = waiting.indexOf(number);
    if (at >= 0) return at;
    const free = waiting.indexOf(null);
    const lane = free >= 0 ? free : waiting.length;
    waiting[lane] = number;
    return lane;
  };
  return revisions.map((revision) => {
    const lane = place(revision.number);
    for (let n = 0; n < waiting.length; n++) if (waiting[n] === revision.number) waiting[n] = null;
    const passing = waiting.flatMap((number, n) => (number === null ? [] : [n]));
    const down: number[] = [];
    for (const [n, parent] of revision.parents.entries()) {
      if (n === 0 && !waiting.includes(parent)) {
        waiting[lane] = parent;
        down.push(lane);
      } else down.push(place(parent));
    }
    return { lane, passing, down, draft: revision.on_draft };
  });
}
