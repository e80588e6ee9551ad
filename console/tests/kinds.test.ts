import { cleanup, fireEvent, render, screen, within } from "@testing-library/svelte";
import { afterEach, describe, expect, it, vi } from "vitest";
import SideBySide from "../src/features/content/SideBySide.svelte";
import WordsConflict from "../src/features/content/WordsConflict.svelte";
import "../src/features/content/fields/BlockList.svelte";
import FieldInput from "../src/features/content/fields/FieldInput.svelte";
import type { FieldSpec } from "../src/lib/api";
import { entry, spec } from "./made";

afterEach(cleanup);

function shown(part: Partial<FieldSpec>, value: unknown, more: Record<string, unknown> = {}) {
  const onType = vi.fn();
  render(FieldInput, {
    spec: spec(part),
    entry: { ...entry(), ...(more.entry as object) },
    value,
    readonly: Boolean(more.readonly),
    lacking: false,
    version: 0,
    onType,
  });
  return onType;
}

const quote = {
  name: "quote",
  label: "Quote",
  help: "",
  arranges: "",
  fields: [spec({ name: "said", label: "Said" })],
};
const two = [
  { id: "a", kind: "quote", fields: { said: "One" } },
  { id: "b", kind: "quote", fields: { said: "Two" } },
];

describe("the editor of a place", () => {
  it("sends nothing until there are both numbers", async () => {
    const onType = shown({ kind: "place" }, null);
    await fireEvent.input(screen.getByLabelText("Latitude"), { target: { value: "54.2" } });
    expect(onType).not.toHaveBeenCalled();
    expect(screen.getByText("A place needs both numbers.")).toBeTruthy();
    await fireEvent.input(screen.getByLabelText("Longitude"), { target: { value: "-3" } });
    expect(onType).toHaveBeenCalledWith({ latitude: 54.2, longitude: -3 });
  });
});

describe("the editor of an instant", () => {
  it("keeps the zone with the wall time, and empties both", async () => {
    const onType = shown({ kind: "instant" }, { wall: "2027-03-31T09:00", zone: "Europe/London" });
    await fireEvent.change(screen.getByLabelText("Time zone"), { target: { value: "UTC" } });
    expect(onType).toHaveBeenLastCalledWith({ wall: "2027-03-31T09:00", zone: "UTC" });
    await fireEvent.input(screen.getByLabelText("Thing"), { target: { value: "" } });
    expect(onType).toHaveBeenLastCalledWith(null);
  });
});

describe("the editor of JSON", () => {
  it("says what is wrong and sends what is right", async () => {
    const onType = shown({ kind: "json" }, { a: 1 });
    const box = screen.getByLabelText("Thing");
    await fireEvent.input(box, { target: { value: "{" } });
    expect(onType).not.toHaveBeenCalled();
    expect(screen.getByText(/This is not JSON yet/)).toBeTruthy();
    await fireEvent.input(box, { target: { value: "[1, 2]" } });
    expect(onType).toHaveBeenCalledWith([1, 2]);
  });
});

describe("the editor of a link", () => {
  it("shows an entry by its title and an address as it is", async () => {
    const id = "01a1a01e-802a-748b-a703-06d75330613b";
    const references = { [id]: { id, type: "label", title: "The fog bell", file: "" } };
    const onType = shown(
      { kind: "link" },
      { href: `urn:uuid:${id}`, text: "Bell" },
      { entry: { references } },
    );
    expect(screen.getByText("The fog bell")).toBeTruthy();
    await fireEvent.input(screen.getByLabelText("Words to show"), { target: { value: "The bell" } });
    expect(onType).toHaveBeenLastCalledWith({ href: `urn:uuid:${id}`, text: "The bell" });
  });
});

describe("the editor of blocks", () => {
  it("changes, moves, repeats and removes them", async () => {
    const onType = shown({ kind: "blocks", blocks: [quote] }, two);
    await fireEvent.input((await screen.findAllByLabelText("Said"))[1]!, { target: { value: "Three" } });
    expect(onType).toHaveBeenLastCalledWith([two[0], { ...two[1], fields: { said: "Three" } }]);
    await fireEvent.click(screen.getByLabelText("Move block 2 up"));
    expect(onType).toHaveBeenLastCalledWith([two[1], two[0]]);
    await fireEvent.keyDown(screen.getByLabelText(/^Move Quote, 1 of 2/), { key: "ArrowDown" });
    expect(onType).toHaveBeenLastCalledWith([two[1], two[0]]);
    await fireEvent.click(screen.getByLabelText("Duplicate block 1"));
    const repeated = onType.mock.lastCall![0] as typeof two;
    expect(repeated.map((one) => one.fields.said)).toEqual(["One", "One", "Two"]);
    expect(new Set(repeated.map((one) => one.id)).size).toBe(3);
    await fireEvent.click(screen.getByLabelText("Remove block 1"));
    expect(onType).toHaveBeenLastCalledWith([two[1]]);
  });

  it("keeps what it does not know, and lets nobody write who may not", async () => {
    shown({ kind: "blocks", blocks: [quote] }, [{ id: "m", kind: "map", fields: { x: 1 } }], {
      readonly: true,
    });
    expect(await screen.findByText(/The kind of block “map” does not exist any more/)).toBeTruthy();
    expect(screen.queryByRole("group", { name: /^Add to/ })).toBeNull();
    expect(screen.queryByLabelText(/^Remove block/)).toBeNull();
  });

  it("takes no more than fit", async () => {
    shown({ kind: "blocks", blocks: [quote], limit: 2 }, two);
    expect(await screen.findByText("No more than 2 fit here.")).toBeTruthy();
    expect(within(screen.getByRole("group", { name: /^Add to/ })).queryByRole("button")).toBeNull();
  });
});

describe("the editor of a group", () => {
  it("is one object, or members that repeat", async () => {
    const inner = [spec({ name: "day", label: "Day" })];
    const onType = shown({ kind: "group", fields: inner }, { day: "Monday" });
    await fireEvent.input(screen.getByLabelText("Day"), { target: { value: "" } });
    expect(onType).toHaveBeenLastCalledWith(null);
    cleanup();
    const many = shown({ kind: "group", many: true, fields: inner }, null);
    await fireEvent.click(await screen.findByText("Add one"));
    expect(many.mock.lastCall![0]).toMatchObject([{ fields: {} }]);
  });
});

describe("a field that is empty", () => {
  it("shows what stands in for it, and what lacks inside it", () => {
    shown({ kind: "text" }, "", { entry: { derived: { x: "The opening of it…" } } });
    expect(screen.getByText("The opening of it…")).toBeTruthy();
  });
});

describe("a conflict of words", () => {
  const piece = (text: string) => ({ text, contested: false, base: "", ours: "", theirs: "" });
  const pieces = [
    piece("Made of "),
    { text: "", contested: true, base: "brass", ours: "old brass", theirs: "new brass" },
    piece(" in <strong>town</strong>, "),
    { text: "", contested: true, base: "lit", ours: "", theirs: "lit daily" },
    piece("."),
  ];

  it("is a text once every contested place is chosen", async () => {
    const onCompose = vi.fn();
    render(WordsConflict, { pieces, lang: "en", onCompose });
    await fireEvent.click(screen.getByRole("radio", { name: "Yours: old brass" }));
    expect(onCompose).toHaveBeenLastCalledWith(null);
    await fireEvent.click(screen.getByRole("radio", { name: "Yours: nothing" }));
    expect(onCompose).toHaveBeenLastCalledWith("Made of old brass in <strong>town</strong>, .");
    await fireEvent.click(screen.getAllByRole("radio", { name: "Both" })[0]!);
    expect(onCompose).toHaveBeenLastCalledWith("Made of new brass old brass in <strong>town</strong>, .");
  });
});

describe("a comparison side by side", () => {
  it("has on each side what stands there, and says what moved", () => {
    const run = (how: "same" | "gone" | "new", text: string) => ({ how, text, assistant: false });
    const side = { name: "draft", label: "draft, revision 2", revision: 2 };
    const parts = [
      {
        how: "changed" as const,
        tag: "p",
        paragraph: "1",
        label: "",
        path: "",
        runs: [run("same", "Lit "), run("gone", "once"), run("new", "daily")],
      },
      {
        how: "gone" as const,
        tag: "p",
        paragraph: "2",
        label: "",
        path: "",
        runs: [run("gone", "Old words")],
      },
      { how: "moved" as const, tag: "p", paragraph: "3", label: "", path: "", runs: [run("same", "Salt")] },
      {
        how: "same" as const,
        tag: "p",
        paragraph: "4",
        label: "",
        path: "",
        runs: [run("same", "Unchanged")],
      },
    ];
    const comparison = {
      before: { ...side, label: "what was" },
      after: side,
      fields: [{ field: "body", label: "Text", before: "", after: "", parts }],
    };
    const { container } = render(SideBySide, { comparison, lang: "en", whole: false });
    const rows = [...container.querySelectorAll("section > div")].map((row) =>
      [...row.children].map((cell) => cell.textContent?.replace(/\s+/g, " ").trim()),
    );
    expect(rows).toEqual([
      ["Lit once", "Lit daily"],
      ["Old words", ""],
      ["moved from hereSalt", "moved to hereSalt"],
    ]);
  });
});
