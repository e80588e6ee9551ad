import { createInfiniteQuery, createQuery, type QueryClient } from "@tanstack/svelte-query";
import { api, Problem, sure, type Finding, type SegmentLine } from "../../../lib/api";
import { nameOf } from "./names";
import { same } from "./sentences";

/** How many units come at once. */
const UNITS = 200;
/** Milliseconds without a key until what is typed is looked at. */
const PAUSE = 250;

/** The two languages of a job, and how each is written. */
export interface Languages {
  source: string;
  target: string;
  sourceDir: "ltr" | "rtl";
  targetDir: "ltr" | "rtl";
}

interface Pages {
  pages: { items: SegmentLine[]; next: string }[];
  pageParams: string[];
}

/** The sentences of a job, page after page. */
export function segmentsQuery(id: () => string) {
  return createInfiniteQuery(() => ({
    queryKey: ["segments", id()],
    queryFn: ({ pageParam }: { pageParam: string }) =>
      sure(
        api.GET("/api/jobs/{id}/segments", {
          params: {
            path: { id: id() },
            query: { limit: UNITS, ...(pageParam ? { cursor: pageParam } : {}) },
          },
        }),
      ),
    initialPageParam: "",
    getNextPageParam: (last: { next: string }) => last.next || undefined,
  }));
}

/** What the memories have for a sentence. */
export function matchesQuery(id: () => string, line: () => SegmentLine | undefined) {
  return createQuery(() => ({
    queryKey: ["memories", "matches", id(), line() ? nameOf(line()!) : "", line()?.source],
    queryFn: () => {
      const { entry, key, segment } = line()!;
      const params = { path: { id: id() } };
      return sure(api.POST("/api/jobs/{id}/segments/matches", { params, body: { entry, key, segment } }));
    },
    enabled: !!line(),
  }));
}

/**
 * The sentence that somebody is at, and what they typed for it. What is typed is looked at after a pause, and kept when they go on
 * to another: nothing has to be saved by hand, and nothing of another is written over.
 */
export class Work {
  /** The sentence that is worked on, by name. */
  at = $state("");
  /** What is typed for it; null while nothing was. */
  typed = $state.raw<string | null>(null);
  remark = $state("");
  findings = $state.raw<Finding[]>([]);
  busy = $state(false);
  error = $state<unknown>(null);
  /** What another wrote there meanwhile. */
  other = $state.raw<{ by: string; now: string } | null>(null);
  /** Grows when the text is to be shown anew in the editor. */
  turn = $state(0);
  #before = "";
  #remarked = "";
  #soon: ReturnType<typeof setTimeout> | undefined;
  /** What was looked at when something was found; null for what stood there. */
  #looked: string | null = null;

  /** Go back to a sentence that could not be kept, once what is typed elsewhere is. */
  onBack: (line: SegmentLine) => Promise<void> = () => Promise.resolve();

  constructor(
    private readonly job: () => string,
    private readonly queries: QueryClient,
  ) {}

  /** Go to a sentence; what was typed for the one before has been kept by then. */
  begin(line: SegmentLine): void {
    clearTimeout(this.#soon);
    this.at = nameOf(line);
    this.typed = null;
    this.remark = this.#remarked = line.remark;
    this.#before = line.target;
    this.findings = line.findings;
    this.#looked = null;
    this.other = null;
    this.error = null;
    this.turn++;
  }

  /** Whether something is typed that is not kept. */
  get loose(): boolean {
    return (this.typed !== null && !same(this.typed, this.#before)) || this.remark !== this.#remarked;
  }

  /** Whether what is typed cannot be finished, as far as it was looked at: what was typed since is for the service to say. */
  get blocked(): boolean {
    return this.typed === this.#looked && this.findings.some((one) => one.blocks);
  }

  /** Take what is typed. */
  type(line: SegmentLine, sentence: string): void {
    this.typed = sentence;
    this.error = null;
    clearTimeout(this.#soon);
    this.#soon = setTimeout(() => void this.#look(line, sentence), PAUSE);
  }

  /** Put other words in place of what is typed. */
  put(line: SegmentLine, sentence: string): void {
    this.type(line, sentence);
    this.turn++;
  }

  async #look(line: SegmentLine, target: string): Promise<void> {
    const found = await sure(
      api.POST("/api/jobs/{id}/segments/check", {
        params: { path: { id: this.job() } },
        body: { entry: line.entry, key: line.key, segment: line.segment, target },
      }),
    ).catch(() => null);
    if (found && this.typed === target && this.at === nameOf(line)) {
      this.findings = found.findings;
      this.#looked = target;
    }
  }

  /** Keep what is typed, as finished or as it is; says whether it was kept. Whoever goes on meanwhile types elsewhere already. */
  async keep(line: SegmentLine, state?: "translated" | "reviewed"): Promise<boolean> {
    clearTimeout(this.#soon);
    const written = { target: this.typed ?? line.target, remark: this.remark, before: this.#before };
    const asIs = this.findings.some((one) => one.blocks) || line.state === "initial";
    const wanted: "initial" | "translated" | "reviewed" =
      state ??
      (asIs ? "initial" : line.state === "final" ? "translated" : (line.state as "translated" | "reviewed"));
    if (!this.loose && wanted === line.state) return true;
    return this.#do(
      async () => {
        const body = {
          entry: line.entry,
          key: line.key,
          segment: line.segment,
          state: wanted,
          ...written,
        };
        const now = await sure(
          api.PUT("/api/jobs/{id}/segments", { params: { path: { id: this.job() } }, body }),
        );
        this.take(now.segments);
        const mine = now.segments.find((one) => nameOf(one) === nameOf(line));
        if (mine && this.at === nameOf(line)) this.#settled(mine);
      },
      line,
      written,
    );
  }

  #settled(line: SegmentLine): void {
    this.#before = line.target;
    this.#remarked = line.remark;
    this.typed = null;
    this.findings = line.findings;
    this.#looked = null;
    this.other = null;
  }

  /** Divide: cut the sentence before a character of its source, or join it with the next. */
  divide(line: SegmentLine, at: number | null): Promise<boolean> {
    const place = { entry: line.entry, key: line.key, segment: line.segment };
    const params = { path: { id: this.job() } };
    return this.#do(async () => {
      const now =
        at === null
          ? await sure(api.POST("/api/jobs/{id}/segments/join", { params, body: place }))
          : await sure(api.POST("/api/jobs/{id}/segments/split", { params, body: { ...place, at } }));
      this.take(now.segments);
      const mine = now.segments.find((one) => nameOf(one) === nameOf(line));
      if (mine) this.begin(mine);
    });
  }

  /** Open the unit of a sentence again, with a reason. */
  sendBack(line: SegmentLine, why: string): Promise<boolean> {
    return this.#do(async () => {
      const body = { entry: line.entry, key: line.key, why };
      const params = { path: { id: this.job() } };
      const now = await sure(api.POST("/api/jobs/{id}/send-back", { params, body }));
      this.take(now.segments);
    });
  }

  /** Go on from what another wrote: it stands from now on, or what is typed goes over it. */
  settle(line: SegmentLine, mine: boolean): Promise<boolean> | void {
    if (!this.other) return;
    this.#before = this.other.now;
    if (mine) return this.keep(line, line.state === "initial" ? undefined : "translated");
    this.put(line, this.other.now);
    this.typed = null;
    this.other = null;
    this.error = null;
  }

  /** Show the sentences of a unit as they are now. */
  take(now: SegmentLine[]): void {
    const first = now[0];
    if (!first) return;
    const ofUnit = (one: SegmentLine) => one.entry === first.entry && one.key === first.key;
    this.queries.setQueryData<Pages>(["segments", this.job()], (have) => {
      if (!have) return have;
      const pages = have.pages.map((page) => {
        const from = page.items.findIndex(ofUnit);
        if (from < 0) return page;
        const rest = page.items.filter((one) => !ofUnit(one));
        return { ...page, items: [...rest.slice(0, from), ...now, ...rest.slice(from)] };
      });
      return { ...have, pages };
    });
  }

  /** Do something for a sentence. When it fails after somebody went on, they are led back to what they had `written`. */
  async #do(
    does: () => Promise<void>,
    line?: SegmentLine,
    written?: { target: string; remark: string; before: string },
  ): Promise<boolean> {
    this.busy = true;
    this.error = null;
    try {
      await does();
      return true;
    } catch (caught) {
      if (line && written && this.at !== nameOf(line)) {
        await this.onBack(line);
        this.typed = written.target;
        this.remark = written.remark;
        this.#before = written.before;
        this.turn++;
      }
      if (caught instanceof Problem && caught.slug === "stale") {
        this.other = { by: String(caught.facts.by ?? ""), now: String(caught.facts.stands ?? "") };
      } else this.error = caught;
      return false;
    } finally {
      this.busy = false;
    }
  }
}
