import { api, once, sure, type OutlineLevel, type OutlineLine } from "../api";

/** A line as it is drawn: how deep it lies, and its place among those beside it. */
export interface Row {
  line: OutlineLine;
  depth: number;
  parent: string;
  place: number;
  count: number;
  more: boolean;
}

export interface Asked {
  locale: string;
  stage: string;
  at: string;
}

/** What a move did, to be undone. */
export interface Moved {
  id: string;
  title: string;
  was: unknown;
}

const TOP = "";

/** The outline as far as it is opened: a level at a time, kept while others change it. */
export class Outline {
  levels = $state<Record<string, OutlineLevel>>({});
  opened = $state<Record<string, boolean>>({});
  error = $state<unknown>(null);
  asked: Asked = { locale: "", stage: "", at: "" };

  async ask(asked: Asked): Promise<void> {
    this.asked = asked;
    await this.reload();
  }

  /** Look again at every level that is open. */
  async reload(): Promise<void> {
    const open = [TOP, ...Object.keys(this.opened).filter((id) => this.opened[id])];
    try {
      const found = await Promise.all(
        open.map(async (id) => [id, await this.#level(id, "").catch(() => null)] as const),
      );
      const top = found[0]?.[1] ?? (await this.#level(TOP, ""));
      this.levels = Object.fromEntries(
        [[TOP, top] as const, ...found.slice(1)].filter(([, level]) => level),
      ) as Record<string, OutlineLevel>;
      this.error = null;
    } catch (error) {
      this.error = error;
    }
  }

  async #level(below: string, cursor: string): Promise<OutlineLevel> {
    const given = Object.entries({ ...this.asked, below, cursor }).filter(([, value]) => value);
    return sure(api.GET("/api/outline", { params: { query: Object.fromEntries(given) } }));
  }

  async more(below: string): Promise<void> {
    const level = this.levels[below];
    if (!level?.next) return;
    const next = await this.#level(below, level.next);
    this.levels[below] = { ...next, items: [...level.items, ...next.items] };
  }

  async open(id: string): Promise<void> {
    this.opened[id] = true;
    if (!this.levels[id]) this.levels[id] = await this.#level(id, "");
  }

  close(id: string): void {
    this.opened[id] = false;
  }

  /** Open the way to an entry; as many pages of each level as it takes. */
  async reveal(id: string): Promise<void> {
    const trail = await sure(api.GET("/api/outline/{id}/trail", { params: { path: { id } } }));
    let below = TOP;
    for (const line of trail.items) {
      for (let turn = 0; turn < 200; turn++) {
        const level = this.levels[below];
        if (!level?.next || level.items.some((one) => one.id === line.id)) break;
        await this.more(below);
      }
      if (line.id === id) return;
      await this.open(line.id);
      below = line.id;
    }
  }

  /** The lines in the order in which they are drawn. */
  get rows(): Row[] {
    const out: Row[] = [];
    const walk = (parent: string, depth: number): void => {
      const level = this.levels[parent];
      const items = level?.items ?? [];
      items.forEach((line, n) => {
        const last = n === items.length - 1;
        out.push({ line, depth, parent, place: n, count: items.length, more: last && !!level?.next });
        if (this.opened[line.id]) walk(line.id, depth + 1);
      });
    };
    walk(TOP, 0);
    return out;
  }

  async move(line: OutlineLine, below: string, beside: { before?: string; after?: string }): Promise<Moved> {
    const done = await sure(
      api.POST("/api/outline/{id}/move", {
        params: { path: { id: line.id } },
        body: { below, before: beside.before ?? "", after: beside.after ?? "", undo: false },
      }),
    );
    if (below) this.opened[below] = true;
    await this.reload();
    return { id: line.id, title: line.title, was: done.was };
  }

  async undo(moved: Moved): Promise<void> {
    await sure(
      api.POST("/api/outline/{id}/move", {
        params: { path: { id: moved.id } },
        body: { undo: true, placement: moved.was, below: "", before: "", after: "" },
      }),
    );
    await this.reload();
    await this.reveal(moved.id);
  }

  async copy(line: OutlineLine): Promise<number> {
    const done = await sure(
      api.POST("/api/outline/{id}/copy", {
        params: { path: { id: line.id }, header: once() },
        body: { below: null },
      }),
    );
    await this.reload();
    await this.reveal(done.id);
    return done.entries;
  }
}
