import type { Entry } from "../../lib/api";

/** What stood at a stage from when until when. */
export interface Stood {
  stage: string;
  revision: number;
  since: string;
  until: string | null;
}

/** One stretch of a line of time, in milliseconds, and where it lies on it in percent. */
export interface Span {
  from: number;
  until: number | null;
  revision: number | null;
  planned: boolean;
  start: number;
  width: number;
}

interface Open {
  from: number;
  until: number | null;
  revision: number | null;
  planned: boolean;
}
const LEAVING = new Set(["withdraw", "remove", "archive"]);
/** The least that is drawn of a stretch, in percent: enough to be seen. */
const LEAST = 3;

/** What planned moves make of what stands at release: each ends what stood there, and opens what it brings. What a quiet period will hold is not foreseen. */
function ahead(stood: Open[], planned: Entry["planned"]): Open[] {
  const out = [...stood];
  for (const move of planned.filter((one) => one.goes).sort((a, b) => a.instant.localeCompare(b.instant))) {
    if (move.verb === "advance") continue;
    const at = Date.parse(move.instant);
    const last = out.findIndex((one) => one.until === null);
    if (last >= 0) out[last] = { ...out[last]!, until: at };
    if (!LEAVING.has(move.verb)) out.push({ from: at, until: null, revision: move.revision, planned: true });
  }
  return out;
}

/** The stretches of each stage at which anything stood or will stand, those that were drafted left out. */
export function spans(
  standings: Stood[],
  planned: Entry["planned"],
  now: number,
): { stages: { name: string; spans: Span[] }[]; now: number } {
  const by = new Map<string, Open[]>();
  const opened = (one: Stood): Open => ({
    from: Date.parse(one.since),
    until: one.until ? Date.parse(one.until) : null,
    revision: one.revision,
    planned: false,
  });
  for (const one of [...standings].sort((a, b) => a.since.localeCompare(b.since)))
    by.set(one.stage, [...(by.get(one.stage) ?? []), opened(one)]);
  const release = ahead(by.get("release") ?? [], planned);
  if (release.length) by.set("release", release);
  const ends = [...by.values()].flat().flatMap((one) => [one.from, one.until ?? now]);
  if (!ends.length) return { stages: [], now: 0 };
  const first = Math.min(...ends);
  const length = Math.max(Math.max(now, ...ends) - first, 1) * 1.04;
  const place = (at: number) => (100 * (at - first)) / length;
  const drawn = (one: Open): Span => {
    const end = one.until === null ? 100 : place(one.until);
    const start = Math.min(place(one.from), 100 - LEAST);
    return { ...one, start, width: Math.max(end - start, LEAST) };
  };
  const stages = [...by].map(([name, some]) => ({ name, spans: some.map(drawn) }));
  return { stages, now: place(now) };
}
