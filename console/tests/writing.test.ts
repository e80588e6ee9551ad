import { describe, expect, it } from "vitest";
import { cleaned, gone } from "../src/features/content/fields/paste";
import { copied, fresh, moved, opening } from "../src/features/content/fields/blocks";
import { lanes } from "../src/lib/graph";
import { named, slim, type Draft } from "../src/lib/types";
import type { FieldSpec } from "../src/lib/api";

describe("pasted text", () => {
  it.each([
    ["<b style='font-weight:normal'><p>Plain</p></b>", "<p>Plain</p>"],
    [
      "<p><span style='font-weight:700;font-style:italic'>Both</span></p>",
      "<p><strong><em>Both</em></strong></p>",
    ],
    ["<h1>One</h1><h6>Six</h6>", "<h2>One</h2><h4>Six</h4>"],
    ["<p class='MsoHeading2'>x</p><p><!-- note -->y<o:p></o:p></p>", "<h3>x</h3><p>y</p>"],
    [
      "<p><a href='https://a.example' onclick='x()' class='k'>link</a></p>",
      '<p><a href="https://a.example">link</a></p>',
    ],
    ["<p>a</p><p> </p><script>x</script><p>b</p>", "<p>a</p><p>b</p>"],
    [
      "<table style='x'><tr><td colspan='2'><p>a</p><p>b <img src='https://a.example/x.png'></p></td></tr></table>",
      '<table><tbody><tr><td>a<br>b </td></tr></tbody></table><img src="https://a.example/x.png">',
    ],
    [
      "<table><tr><th>Out<table><tr><td>in</td><td>ner</td></tr></table></th></tr></table>",
      "<table><tbody><tr><th>Out<br>in<br>ner</th></tr></tbody></table>",
    ],
  ])("keeps structure and drops dressing: %s", (given, expected) => {
    expect(cleaned(given)).toBe(expected);
  });

  it("makes nested lists of paragraphs that only look like items", () => {
    const item = (level: number, mark: string, text: string) =>
      `<p style="mso-list:l0 level${level} lfo1"><span style="mso-list:Ignore">${mark}</span>${text}</p>`;
    expect(cleaned(item(1, "1.", "One") + item(2, "·", "Inner") + item(1, "2.", "Two"))).toBe(
      "<ol><li>One<ul><li>Inner</li></ul></li><li>Two</li></ol>",
    );
  });
});

describe("blocks", () => {
  const spec = {
    kind: "blocks",
    blocks: [
      { name: "quote", label: "Quote", help: "", fields: [{ name: "said", default: "…" }, { name: "by" }] },
    ],
  } as unknown as FieldSpec;

  it("begin with their defaults and ids that keep together", () => {
    const [one, two] = [fresh(spec, "quote"), fresh(spec, "quote")];
    expect(one.fields).toEqual({ said: "…" });
    expect(one.id < two.id && one.id.slice(0, -3) === two.id.slice(0, -3)).toBe(true);
  });

  it("are copied with ids of their own, inner ones too", () => {
    const row = {
      id: "r",
      kind: "row",
      fields: { cells: [{ id: "c", kind: "quote", fields: { said: "x" } }] },
    };
    const copy = copied(row);
    const inner = (copy.fields.cells as { id: string; fields: unknown }[])[0]!;
    expect(copy.id).not.toBe("r");
    expect(inner.id).not.toBe("c");
    expect(inner.fields).toEqual({ said: "x" });
    expect(row.fields.cells[0]!.id).toBe("c");
  });

  it("move within their list, and are known by their first words", () => {
    expect(moved(["a", "b", "c"], 0, 2)).toEqual(["b", "c", "a"]);
    expect(
      opening({ id: "x", fields: { by: "01a1a01e-802a-748b-a703-06d75330613b", text: "<p>Hemp</p>" } }),
    ).toBe("Hemp");
  });
});

describe("the graph of revisions", () => {
  const revision = (number: number, parents: number[], strand = "draft") =>
    ({ number, parents, strand, on_draft: strand === "draft" }) as Parameters<typeof lanes>[0][number];

  it("keeps the draft straight and joins a strand where it was forked and came in", () => {
    const rows = lanes([revision(4, [3, 2]), revision(3, [1]), revision(2, [1], "Spring"), revision(1, [])]);
    expect(rows.map((row) => row.lane)).toEqual([0, 0, 1, 0]);
    expect(rows[0]!.down).toEqual([0, 1]);
    expect(rows[1]!.passing).toEqual([1]);
    expect(rows[2]!.down).toEqual([0]);
  });
});

describe("a definition", () => {
  it("is sent without what is usual, inside groups and blocks too", () => {
    const inner = { name: "a", kind: "line" as const, label: "A", required: false, limit: null, set: "x" };
    const hidden = { name: "x", kind: "line", public: false, translate: false };
    expect(slim(hidden as Draft)).toEqual(hidden);
    expect(slim({ ...hidden, public: true, translate: true } as Draft)).toEqual({ name: "x", kind: "line" });
    expect(slim({ name: "g", kind: "group", many: true, fields: [inner], blocks: [], help: "" })).toEqual({
      name: "g",
      kind: "group",
      many: true,
      fields: [{ name: "a", kind: "line" as const, label: "A" }],
    });
  });

  it("names fields for programs, each once", () => {
    expect(named("Été à Paris!", [])).toBe("ete_a_paris");
    expect(named("Text", ["text", "text_2"])).toBe("text_3");
    expect(named("灯台", [])).toBe("field");
  });
});

describe("what a paste loses", () => {
  it("is named, and what stays is not", () => {
    expect(gone("<table><tr><td rowspan=2>x</td></tr></table><p><u>y</u></p>")).toEqual([
      "joined",
      "underline",
    ]);
    expect(gone('<img src="data:image/png;base64,AA"><embed>')).toEqual(["page", "picture"]);
    expect(gone('<p><b>x</b> <a href="https://x.example">y</a></p><ul><li>z</li></ul>')).toEqual([]);
  });
});
