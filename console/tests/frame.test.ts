import { render, screen } from "@testing-library/svelte";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { compiled, parts } from "../compiled";
import { typedAct } from "../src/features/frame/commands";
import { within } from "../src/lib/words";
import { helpOf } from "../src/features/frame/help";
import { Asking, BLANK } from "../src/features/search/filters.svelte";
import { byUrgency } from "../src/features/views/work";
import Toasts from "../src/features/frame/Toasts.svelte";
import type { WorkLine } from "../src/lib/api";
import { t } from "../src/lib/i18n";
import { Kept } from "../src/lib/state/kept.svelte";
import { present } from "../src/lib/state/present.svelte";
import { toasts } from "../src/lib/state/toasts.svelte";
import help from "../src/messages/en.help.json";
import { entry } from "./made";

describe("the compiled catalogue", () => {
  it("takes words and values apart", () => {
    expect(parts("{{n, number}} of {{all}} done")).toEqual([["n", "number"], " of ", ["all"], " done"]);
  });
  it("makes plural forms one message, and none at all one of them", () => {
    const found = compiled({ list: { count_zero: "none", count_one: "one", count_other: "{{count}}" } });
    expect(found).toEqual({
      "list.count": [["count", "plural", { 0: ["none"], one: ["one"], other: [["count"]] }]],
    });
  });
  it("leaves a name alone that only looks like a plural form", () => {
    expect(compiled({ for_one: "x" })).toEqual({ for_one: ["x"] });
  });
  it("says numbers as a language writes them", () => {
    expect(t("list.countMore", { count: 1000 })).toBe("more than 1,000 entries");
    expect(t("myWork.dayWaits", { count: 0 })).toBe("nothing waits for you");
  });
});

describe("what is typed to find somebody", () => {
  it("is found word by word, however it is written", () => {
    expect(within("Zoë Ångström (Übersetzerin)", "angs zoe")).toBe(true);
    expect(within("Zoë Ångström", "Übersetzer")).toBe(false);
    expect(within("がく 額", "額 か")).toBe(true);
    expect(within("whoever", "  ")).toBe(true);
  });
});

describe("typed acts", () => {
  it.each([
    ["release harbour lamp", "release", "harbour lamp"],
    ["Plan  the fog bell", "release", "the fog bell"],
    ["sign off the lift", "sign", "the lift"],
    ["send back", "send-back", ""],
  ])("%s", (text, act, rest) => expect(typedAct(text)).toEqual({ act, rest }));
  it.each(["released lamps", "lamp", "", "signal"])("leaves %s for a title", (text) =>
    expect(typedAct(text)).toBeNull(),
  );
});

describe("what a list asks for", () => {
  beforeEach(() => history.replaceState({}, "", "/entries"));

  it("is said without what is empty, and without an order where words have one", () => {
    const asking = new Asking();
    asking.open({ type: "label", incomplete: true, sort: "title" });
    expect(asking.given).toEqual({ type: "label", incomplete: true, sort: "title" });
    asking.filters.words = "lamp";
    expect(asking.given).toEqual({ type: "label", incomplete: true, words: "lamp" });
  });
  it("stands in the address, and is taken from it", () => {
    const asking = new Asking();
    asking.open({ stage: "draft", planned: true });
    asking.keep();
    expect(new URLSearchParams(location.search).get("stage")).toBe("draft");
    expect(new Asking().given).toEqual({ stage: "draft", planned: true });
    asking.open({});
    asking.keep();
    expect(location.search).toBe("");
    expect(new Asking().filters).toEqual(BLANK);
  });
  it("is narrowed by chips that are taken away one by one", () => {
    const asking = new Asking();
    asking.open({ tag: "rope", behind: true });
    const names = { people: new Map(), topics: new Map(), stages: new Map() };
    const chips = asking.chips(names);
    expect(chips.map((one) => one.name)).toEqual(["tag", "behind"]);
    chips[0]!.drop();
    expect(asking.given).toEqual({ behind: true });
  });
});

describe("what the browser remembers", () => {
  it("is there again, and unreadable things are chosen anew", () => {
    new Kept("pane", "beside").value = "below";
    expect(new Kept("pane", "beside").value).toBe("below");
    localStorage.setItem("hawthorn:pane", "{");
    expect(new Kept("pane", "beside").value).toBe("beside");
  });
  it("has the entries that were opened last, each once, and forgets them with whoever logs out", () => {
    present.forget();
    for (const id of ["a", "b", "a"]) present.stay({ ...entry(), id }, () => undefined)();
    expect(present.recent.map((one) => one.id)).toEqual(["a", "b"]);
    present.forget();
    expect(present.recent).toEqual([]);
  });
});

it("puts what is late before what is due, and that before what has no day", () => {
  const line = (due: string, at: string) => ({ due, at }) as WorkLine;
  const lines = [
    line("", "2027-01-01"),
    line("2027-02-02", ""),
    line("2027-01-31", ""),
    line("", "2026-01-01"),
  ];
  expect(lines.toSorted(byUrgency).map((one) => one.due + one.at)).toEqual([
    "2027-01-31",
    "2027-02-02",
    "2026-01-01",
    "2027-01-01",
  ]);
});

it("has help for every page, with all its paragraphs", () => {
  const words = help.help as unknown as Record<string, Record<string, string>>;
  const paths = [
    "/",
    "/entries",
    "/entries/x/en",
    "/entries/x/en/compare",
    "/entries/x/en/strands/a/proposal",
  ];
  paths.push(
    "/outline",
    "/timetable",
    "/timetable/x",
    "/translation",
    "/translation/x",
    "/translation/x/table",
    "/library",
    "/set-up",
  );
  for (const one of ["types/a", "workflows", "people", "keys", "bureaus", "log", "languages", "sites"])
    paths.push(`/set-up/${one}`);
  const found = paths.map(helpOf);
  expect(new Set(found.map((one) => one.name)).size).toBe(paths.length);
  for (const { name, paragraphs, guides } of found) {
    expect(Object.keys(words[name]!)).toHaveLength(paragraphs);
    for (const guide of guides) expect(words.guide).toHaveProperty([guide]);
  }
});

it("offers to undo what was done, once", async () => {
  const undo = vi.fn();
  render(Toasts);
  toasts.offer("Planned.", "Undo", undo);
  (await screen.findByRole("button", { name: "Undo" })).click();
  expect(undo).toHaveBeenCalledOnce();
  await vi.waitFor(() => expect(screen.queryByText("Planned.")).toBeNull());
});
