import { cleanup, fireEvent, render, screen } from "@testing-library/svelte";
import { afterEach, describe, expect, it, vi } from "vitest";
import ConflictPanel from "../src/features/content/ConflictPanel.svelte";
import Diff from "../src/features/content/Diff.svelte";
import MoveList from "../src/features/release/MoveList.svelte";
import DueOn from "../src/features/translation/DueOn.svelte";
import Rail from "../src/ui/Rail.svelte";
import TagsField from "../src/features/content/fields/kinds/tags.svelte";
import type { Bead, Conflict, FieldSpec } from "../src/lib/api";
import { entry } from "./made";

afterEach(cleanup);

const bead = (stage: string, state: Bead["state"], text: string): Bead => ({
  stage,
  label: stage,
  state,
  revision: state === "none" ? null : 1,
  behind: state === "older" ? 1 : 0,
  text,
  since: null,
});

describe("the day on which translations are due", () => {
  afterEach(() => vi.useRealTimers());

  it("is said to be over from the day after it, as long as something is left to do", () => {
    vi.useFakeTimers({ toFake: ["Date"], now: new Date("2026-11-23T12:00:00Z") });
    for (const [due, open, said] of [
      ["2026-11-22", true, "was due"],
      ["2026-11-22", false, "due"],
      ["2026-11-23", true, "due"],
    ] as const) {
      const { container, unmount } = render(DueOn, { due, open });
      expect(container.textContent).toMatch(new RegExp(`^${said} .*2[23] Nov`));
      expect(container.querySelector(".text-straw") !== null).toBe(said === "was due");
      unmount();
    }
  });
});

describe("the bead rail", () => {
  afterEach(() => vi.useRealTimers());

  it("says every bead in words, and what is planned", () => {
    // What is planned is said from today on: it would be "tomorrow" on the last day of the year.
    vi.useFakeTimers({ toFake: ["Date"], now: new Date("2026-11-23T12:00:00Z") });
    render(Rail, {
      beads: [
        bead("draft", "head", "Draft: revision 9"),
        bead("release", "older", "Release: revision 8, the draft is 1 ahead"),
      ],
      planned: [
        {
          dispatch: "d",
          name: "Regatta",
          verb: "release",
          instant: "2027-01-01T09:00:00Z",
          wall: "",
          zone: "UTC",
          revision: 9,
          goes: true,
        },
      ],
    });
    const said = screen.getAllByRole("listitem").map((item) => item.textContent);
    expect(said.slice(0, 2)).toEqual(["Draft: revision 9", "Release: revision 8, the draft is 1 ahead"]);
    expect(said[2]).toContain("Release planned for Fri 1 Jan 2027");
  });

  it("draws each state in another shape, not in another colour alone", () => {
    const { container } = render(Rail, {
      beads: [bead("a", "head", "a"), bead("b", "older", "b"), bead("c", "none", "c")],
    });
    const circles = [...container.querySelectorAll("g")].map(
      (group) => group.querySelectorAll("circle").length,
    );
    expect(circles).toEqual([1, 2, 1]);
    expect(container.querySelector("g")!.querySelector("circle")!.getAttribute("stroke")).toBeNull();
  });
});

describe("a comparison", () => {
  it("marks what is gone and what is new, and leaves out what is the same", () => {
    const { container } = render(Diff, {
      lang: "en",
      parts: [
        {
          how: "same",
          tag: "p",
          paragraph: "1",
          label: "",
          path: "",
          runs: [{ how: "same", text: "Unchanged.", assistant: false }],
        },
        {
          how: "changed",
          tag: "p",
          paragraph: "2",
          label: "",
          path: "",
          runs: [
            { how: "same", text: "The ", assistant: false },
            { how: "gone", text: "old", assistant: false },
            { how: "new", text: "new", assistant: false },
          ],
        },
      ],
    });
    expect(container.textContent).not.toContain("Unchanged");
    expect(container.querySelector("del")!.textContent).toBe("old");
    expect(container.querySelector("ins")!.textContent).toBe("new");
  });
});

describe("a conflict", () => {
  it("asks for every place before it can be saved", async () => {
    const onSettle = vi.fn();
    const conflict = (place: string): Conflict => ({
      place,
      field: place,
      label: place,
      kind: "line",
      pieces: [],
      locale: "en",
      paragraph: "",
      why: "both changed it",
      base: "",
      ours: `my ${place}`,
      theirs: `their ${place}`,
    });
    render(ConflictPanel, {
      conflicts: [conflict("title"), conflict("slug")],
      names: (uuid: string) => uuid,
      busy: false,
      onSettle,
    });
    const save = screen.getByRole<HTMLButtonElement>("button", { name: "Save the choice" });
    expect(save.disabled).toBe(true);
    await fireEvent.click(screen.getByLabelText(/my title/));
    expect(save.disabled).toBe(true);
    await fireEvent.click(screen.getByLabelText(/their slug/));
    await fireEvent.click(save);
    expect(onSettle).toHaveBeenCalledWith({ title: { take: "ours" }, slug: { take: "theirs" } });
  });
});

describe("moves", () => {
  it("say what blocks them and who could clear it", () => {
    render(MoveList, {
      moves: [
        {
          verb: "release",
          id: "x",
          locale: "*",
          source_locale: "en",
          title: "Lamp",
          type: "label",
          before: null,
          after: 3,
          stage: "release",
          head: 3,
          follows: false,
          along: true,
          to: "",
          sets: [],
          strand: "",
          unmet: [
            { code: "sign-offs", what: "It needs one more sign-off.", where: "", verb: "sign", who: ["Oda"] },
          ],
        },
      ],
    });
    expect(screen.getByText(/It needs one more sign-off/)).toBeTruthy();
    expect(screen.getByText(/could be cleared by Oda/)).toBeTruthy();
    expect(screen.getByText(/shared fields/)).toBeTruthy();
  });
});

describe("tags", () => {
  it("are added by Enter and removed by their button", async () => {
    const onType = vi.fn();
    const spec = {
      name: "tags",
      kind: "tags",
      label: "Tags",
      types: [],
      choices: [],
    } as unknown as FieldSpec;
    render(TagsField, {
      spec,
      entry: entry(),
      value: ["sea"],
      readonly: false,
      onType,
      id: "field-tags",
      version: 0,
    });
    const input = screen.getByPlaceholderText<HTMLInputElement>("Type a word and press Enter");
    await fireEvent.input(input, { target: { value: " fog  bell " } });
    await fireEvent.keyDown(input, { key: "Enter" });
    expect(onType).toHaveBeenCalledWith(["sea", "fog bell"]);
    await fireEvent.click(screen.getByRole("button", { name: "Remove sea" }));
    expect(onType).toHaveBeenLastCalledWith([]);
  });
});
