import { fireEvent, render, screen } from "@testing-library/svelte";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import Members from "../src/features/content/fields/Members.svelte";
import RegionField from "../src/features/content/fields/RegionField.svelte";
import SearchAndSharingPane from "../src/features/delivery/SearchAndSharingPane.svelte";
import { fitting } from "../src/features/content/fields/blocks";
import { cut } from "../src/lib/crops";
import { Outline } from "../src/lib/state/outline.svelte";
import { focusMark, Preview } from "../src/lib/state/preview.svelte";
import { typeFor } from "../src/lib/state/uploads.svelte";
import { createRawSnippet } from "svelte";
import { entry, spec } from "./made";

afterEach(() => vi.restoreAllMocks());

describe("a crop", () => {
  // The same figures as the service cuts by: see tests/core/test_outline.py for what must hold of them.
  it.each([
    [{ width: 1200, height: 500 }, 960, 640, 50, 40, { left: 0, top: 56, width: 960, height: 400 }],
    [{ width: 320, height: 320 }, 960, 640, 0, 0, { left: 0, top: 0, width: 640, height: 640 }],
    [{ width: 320, height: 320 }, 960, 640, 100, 50, { left: 320, top: 0, width: 640, height: 640 }],
    [{ width: 800, height: 0 }, 300, 200, 10, 10, { left: 0, top: 0, width: 300, height: 200 }],
  ])("keeps its focus", (crop, width, height, x, y, kept) => {
    expect(cut(crop, width, height, x, y)).toEqual(kept);
  });
});

const words = [spec({ name: "text", kind: "rich" }), spec({ name: "anchor", kind: "line", option: true })];
const quote = [
  spec({ name: "said", kind: "text" }),
  spec({ name: "by", kind: "reference", types: ["person"] }),
  spec({ name: "anchor", kind: "line", option: true }),
];
const picture = [
  spec({ name: "shown", kind: "reference", types: ["picture"] }),
  spec({ name: "caption", kind: "line" }),
];

describe("a block that is made another kind", () => {
  it("keeps words and what has the same name", () => {
    const kept = fitting(words, quote, { text: "<p>Ahoy &amp; hello.</p><p>Again.</p>", anchor: "a" });
    expect(kept).toEqual({ fields: { said: "Ahoy & hello.\nAgain.", anchor: "a" }, lost: [] });
    const back = fitting(quote, words, { said: "One < two\nThree", anchor: "a" });
    expect(back.fields).toEqual({ text: "<p>One &lt; two</p><p>Three</p>", anchor: "a" });
  });
  it("names what has no place there, and puts no person where a picture belongs", () => {
    const kept = fitting(quote, picture, { said: "Ahoy.", by: "p1", anchor: "a" });
    expect(kept).toEqual({ fields: { caption: "Ahoy." }, lost: ["by", "anchor"] });
  });
});

function line(id: string, more: object = {}) {
  return {
    id,
    type: "page",
    type_label: "Page",
    title: id.toUpperCase(),
    locale: "en",
    rank: id,
    incomplete: false,
    behind: false,
    has_below: false,
    movable: true,
    rail: [],
    planned: [],
    ...more,
  };
}

describe("the outline", () => {
  const asked: string[] = [];
  let answers: Record<string, unknown> = {};
  beforeEach(() => {
    asked.length = 0;
    (globalThis as unknown as { answer: typeof fetch }).answer = async (input) => {
      const request = input as Request;
      const { pathname, search } = new URL(request.url);
      asked.push(`${request.method} ${pathname}${search}`);
      const key = `${pathname}${search}`;
      const found = answers[key] ?? { items: [], next: "", allowed: [] };
      return new Response(JSON.stringify(found), { headers: { "Content-Type": "application/json" } });
    };
    answers = {
      "/api/outline": { items: [line("a", { has_below: true }), line("b")], next: "n.1", allowed: ["page"] },
      "/api/outline?cursor=n.1": { items: [line("c")], next: "", allowed: ["page"] },
      "/api/outline?below=a": { items: [line("d", { has_below: true })], next: "", allowed: ["page"] },
      "/api/outline?below=d": { items: [line("e")], next: "", allowed: ["page"] },
      "/api/outline/e/trail": { items: [line("a"), line("d"), line("e")] },
    };
  });

  it("draws what is open, in order, and says where more is", async () => {
    const outline = new Outline();
    await outline.ask({ locale: "", stage: "", at: "" });
    await outline.open("a");
    expect(outline.rows.map((row) => [row.line.id, row.depth, row.more])).toEqual([
      ["a", 0, false],
      ["d", 1, false],
      ["b", 0, true],
    ]);
    await outline.more("");
    expect(outline.rows.at(-1)).toMatchObject({ line: { id: "c" }, more: false, place: 2, count: 3 });
    outline.close("a");
    expect(outline.rows.map((row) => row.line.id)).toEqual(["a", "b", "c"]);
  });

  it("opens the way to a page", async () => {
    const outline = new Outline();
    await outline.ask({ locale: "", stage: "", at: "" });
    await outline.reveal("e");
    expect(outline.rows.map((row) => row.line.id)).toEqual(["a", "d", "e", "b"]);
  });

  it("keeps what is open when others change it, and tells what a move was", async () => {
    const outline = new Outline();
    await outline.ask({ locale: "", stage: "", at: "" });
    await outline.open("a");
    answers["/api/outline/b/move"] = { line: null, was: { rank: "n1" }, etag: "1" };
    const moved = await outline.move(line("b"), "a", { before: "d" });
    expect(moved).toEqual({ id: "b", title: "B", was: { rank: "n1" } });
    expect(asked).toContain("POST /api/outline/b/move");
    expect(asked.filter((one) => one === "GET /api/outline?below=a")).toHaveLength(2);
  });
});

describe("a preview", () => {
  it("hears its own frame from its own site alone, and names each place once", () => {
    const preview = new Preview();
    const frame = { contentWindow: { postMessage: vi.fn() } } as unknown as HTMLIFrameElement;
    const end = preview.attach(frame, "http://site.example/en/x?preview=t");
    const marks = [
      { mark: "1/title", name: "Heading" },
      { mark: "1/title", name: "Heading" },
      { mark: "1/page:b:text", name: "Text" },
      { mark: "2/title", name: "List" },
    ];
    const event = (origin: string, source: Window | null, data: unknown) =>
      new MessageEvent("message", { data, origin, source });
    window.dispatchEvent(
      event("http://evil.example", frame.contentWindow, { hawthorn: 1, kind: "ready", marks }),
    );
    expect(preview.joined).toBe(false);
    window.dispatchEvent(event("http://site.example", window, { hawthorn: 1, kind: "ready", marks }));
    expect(preview.joined).toBe(false);
    window.dispatchEvent(
      event("http://site.example", frame.contentWindow, { hawthorn: 1, kind: "ready", marks }),
    );
    expect(preview.joined).toBe(true);
    expect(preview.placesOf("1", "title").map((one) => one.name)).toEqual(["Heading"]);
    expect(preview.placesOf("1", "page").map((one) => one.mark)).toEqual(["1/page:b:text"]);
    let chosen = "";
    preview.onChosen = (mark) => (chosen = mark);
    window.dispatchEvent(
      event("http://site.example", frame.contentWindow, { hawthorn: 1, kind: "chosen", mark: "1/title" }),
    );
    expect(chosen).toBe("1/title");
    end();
    window.dispatchEvent(
      event("http://site.example", frame.contentWindow, { hawthorn: 1, kind: "chosen", mark: "9/late" }),
    );
    expect(chosen).toBe("1/title");
  });

  it("leads to a field, and into the block that holds it", () => {
    document.body.innerHTML = `<div data-field="title"><input id="field-title"></div>
      <div data-field="page"><li data-block="row"><li data-block="b"><textarea id="field-page-b-said"></textarea>
      <input id="field-page-b-by"></li></li></div>`;
    Element.prototype.scrollIntoView = () => {};
    expect(focusMark("title")).toBe(true);
    expect(document.activeElement?.id).toBe("field-title");
    expect(focusMark("page:b:by")).toBe(true);
    expect(document.activeElement?.id).toBe("field-page-b-by");
    expect(focusMark("page:b:gone")).toBe(true);
    expect(document.activeElement?.id).toBe("field-page-b-said");
    expect(focusMark("nothing")).toBe(false);
    document.body.innerHTML = "";
  });
});

describe("what a form shows of pages", () => {
  it("folds how a block looks away, and says what is chosen", async () => {
    const onType = vi.fn();
    render(Members, {
      specs: words,
      entry: entry(),
      values: { anchor: "steps" },
      readonly: false,
      version: 0,
      within: "b",
      onType,
    });
    expect(screen.getByText("How it looks: Thing steps")).toBeTruthy();
  });

  it("follows the layout until it is replaced, and goes back", async () => {
    const onType = vi.fn();
    const blocks = [{ name: "quote", label: "Quote", help: "", fields: quote, arranges: "" }];
    const region = spec({ name: "aside", kind: "blocks", blocks, region: true });
    const theirs = [{ id: "q", kind: "quote", fields: { said: "Ring twice." } }];
    const followed = { ...entry(), layout: { id: "9", title: "Frame", values: { aside: theirs } } };
    const children = createRawSnippet(() => ({ render: () => "<p>the editor</p>" }));
    const shown = { spec: region, entry: followed, readonly: false, onType, children };
    const { rerender } = render(RegionField, { ...shown, value: null });
    expect(screen.getByText("Quote: Ring twice.")).toBeTruthy();
    expect(screen.queryByText("the editor")).toBeNull();
    await fireEvent.click(screen.getByText("Replace it on this page alone"));
    const own = onType.mock.calls[0]![0] as { id: string; fields: unknown }[];
    expect(own[0]!.fields).toEqual({ said: "Ring twice." });
    expect(own[0]!.id).not.toBe("q");
    await rerender({ ...shown, value: [{ id: "o", kind: "quote", fields: { said: "Ring once." } }] });
    expect(screen.getByText("the editor")).toBeTruthy();
    expect(screen.getByText("Quote: Ring once.").className).toContain("new");
    expect(screen.getByText("Quote: Ring twice.").className).toContain("gone");
    await fireEvent.click(screen.getByText("Follow the layout again"));
    expect(onType).toHaveBeenLastCalledWith(null);
  });

  it("counts the room that searches have, full width twice, with what is typed", () => {
    const search = {
      title: "Saved",
      description: "About it.",
      picture: null,
      title_room: [5, 60],
      description_room: [9, 160],
      fields: { title: "said" },
      checks: [
        { field: "said", code: "twice" as const, text: "The title is that of “Other” too.", others: [] },
      ],
    };
    render(SearchAndSharingPane, {
      entry: { ...entry(), search },
      value: (field: string) => (field === "said" ? "灯台 at night" : ""),
    });
    expect(screen.getByText("13 of 60 characters")).toBeTruthy();
    expect(screen.getByText("9 of 160 characters")).toBeTruthy();
    expect(screen.getByText(/that of “Other” too/)).toBeTruthy();
    expect(screen.getAllByText("灯台 at night")).toHaveLength(2);
  });

  it("knows which type of the library takes a file", () => {
    expect(["image/svg+xml", "audio/wav", "video/mp4", "application/pdf"].map(typeFor)).toEqual([
      "picture",
      "media",
      "media",
      "document",
    ]);
  });
});
