import { describe, expect, it } from "vitest";
import { Change } from "../src/lib/state/changes";

const saved = { kind: "entry.saved", entries: ["a"], locales: ["en"], lists: ["entries", "my-work"] };

function change(...told: Parameters<Change["add"]>[0][]): Change {
  const made = new Change();
  for (const one of told) made.add(one);
  return made;
}

describe("what a change concerns", () => {
  it("is the entry that it names, and no other", () => {
    const made = change(saved);
    for (const name of ["entry", "history", "compare", "proposal", "trail", "shown-in"]) {
      expect(made.concerns([name, "a", "en"]), name).toBe(true);
      expect(made.concerns([name, "b", "en"]), name).toBe(false);
    }
  });

  it("finds the entry of a key that holds more than its id", () => {
    expect(change(saved).concerns(["proposal", { id: "a", locale: "en" }, {}])).toBe(true);
    expect(change(saved).concerns(["proposal", { id: "b", locale: "en" }, {}])).toBe(false);
  });

  it("is the lists that it names, and what is a part of them", () => {
    const made = change({ ...saved, lists: ["dispatches", "jobs"] });
    expect(made.concerns(["dispatches"])).toBe(true);
    expect(made.concerns(["dispatch", "x"])).toBe(true);
    expect(made.concerns(["job", "x"])).toBe(true);
    expect(made.concerns(["entries", {}])).toBe(false);
    expect(made.concerns(["people"])).toBe(false);
  });

  it("is every entry when more changed than were named", () => {
    expect(change({ ...saved, more: true }).concerns(["entry", "b", "en"])).toBe(true);
  });

  it("is everything when the service does not know", () => {
    expect(change({ ...saved, lists: ["everything"] }).concerns(["people"])).toBe(true);
  });

  it("gathers what came together", () => {
    const made = change(saved, { ...saved, entries: ["b"], lists: ["outline"] });
    expect([...made.entries]).toEqual(["a", "b"]);
    expect([...made.lists]).toEqual(["entries", "my-work", "outline"]);
    expect(made.touches("b")).toBe(true);
    expect(made.touches("c")).toBe(false);
  });

  it("always concerns the log", () => {
    expect(change(saved).concerns(["log", {}])).toBe(true);
  });
});
