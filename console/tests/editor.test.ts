import { describe, expect, it } from "vitest";
import { Problem } from "../src/lib/api";
import { Editor } from "../src/lib/state/editor.svelte";
import { session } from "../src/lib/state/session.svelte";
import { answering, entry } from "./made";

const clash = (etag: string) => ({
  status: 412,
  body: {
    type: "urn:hawthorn:problem:conflict",
    title: "Somebody changed the same place",
    status: 412,
    detail: "Somebody changed “Title” while you were typing.",
    conflicts: [{ place: "title", field: "title", ours: "Ours", theirs: "Theirs", base: "Lamp" }],
    typed: { en: 7 },
    etag,
    entry: entry({ title: "Theirs" }, etag),
  },
});

describe("an editor", () => {
  it("sends only what was typed, over what was looked at when typing began", async () => {
    const editor = new Editor(entry({ title: "Lamp", kind: "event" }), localStorage);
    expect(editor.dirty).toBe(false);
    editor.type("title", "The lamp");
    editor.see(entry({ title: "Lamp", kind: "closure" }, '"9-1"'));
    expect(editor.value("kind")).toBe("event");
    expect(editor.movedOn).toBe(true);
    const asked = answering({
      status: 200,
      body: {
        entry: entry({ title: "The lamp", kind: "closure" }, '"10-1"'),
        changed: true,
        merged_with: [{ number: 2, author: "Nell" }],
      },
    });
    const outcome = await editor.save();
    expect(asked[0]!.method).toBe("PATCH");
    expect(asked[0]!.headers.get("If-Match")).toBe('"1-1"');
    expect(asked[0]!.body).toEqual({ fields: { title: "The lamp" }, note: "", strand: "draft" });
    expect(outcome?.mergedWith[0]?.author).toBe("Nell");
    expect(editor.dirty).toBe(false);
    expect(editor.value("kind")).toBe("closure");
  });

  it("takes a newer state at once while nothing is typed", () => {
    const editor = new Editor(entry({ title: "Lamp" }), localStorage);
    editor.see(entry({ title: "Lamp two" }, '"2-1"'));
    expect(editor.value("title")).toBe("Lamp two");
    expect(editor.base.etag).toBe('"2-1"');
  });

  it("is not dirty when what was typed is taken back", () => {
    const editor = new Editor(entry({ title: "Lamp" }), localStorage);
    editor.type("title", "Lam");
    editor.type("title", "Lamp");
    editor.type("until", "");
    expect(editor.dirty).toBe(false);
  });

  it("brings typed text back after a crash, over the state that it was typed over", async () => {
    new Editor(entry({ title: "Lamp" }, '"3-1"'), localStorage).type("title", "Half a sen");
    const again = new Editor(entry({ title: "Lamp two" }, '"8-1"'), localStorage);
    expect(again.broughtBack).toBe(true);
    expect(again.value("title")).toBe("Half a sen");
    const asked = answering({
      status: 200,
      body: { entry: entry({ title: "Half a sen" }, '"9-1"'), changed: true, merged_with: [] },
    });
    await again.save();
    expect(asked[0]!.headers.get("If-Match")).toBe('"3-1"');
    expect(new Editor(entry({ title: "x" }), localStorage).broughtBack).toBe(false);
  });

  it("keeps the typed text of people who share a browser apart", () => {
    new Editor(entry({ title: "Lamp" }), localStorage, "wim").type("title", "Wim's words");
    expect(new Editor(entry({ title: "Lamp" }), localStorage, "nell").broughtBack).toBe(false);
    expect(new Editor(entry({ title: "Lamp" }), localStorage, "wim").value("title")).toBe("Wim's words");
  });

  it("keeps what was typed when the service cannot be reached", async () => {
    const editor = new Editor(entry({ title: "Lamp" }), localStorage);
    editor.type("title", "The lamp");
    answering();
    await expect(editor.save()).rejects.toThrow("cannot be reached");
    expect(editor.value("title")).toBe("The lamp");
    expect(editor.saving).toBe(false);
  });

  it("shows a conflict, keeps the typed text, and settles it", async () => {
    const editor = new Editor(entry({ title: "Lamp" }), localStorage);
    editor.type("title", "Ours");
    const asked = answering(clash('"5-1"'), {
      status: 200,
      body: { entry: entry({ title: "Ours" }, '"6-1"'), changed: true, merged_with: [] },
    });
    expect(await editor.save()).toBeNull();
    expect(editor.clash?.conflicts[0]?.place).toBe("title");
    expect(editor.value("title")).toBe("Ours");
    await editor.settle({ title: { take: "ours" } });
    expect(asked[1]!.url).toContain("/settle");
    expect(asked[1]!.headers.get("If-Match")).toBe('"5-1"');
    expect(asked[1]!.body).toEqual({
      typed: { en: 7 },
      decisions: { title: { take: "ours" } },
      strand: "draft",
    });
    expect(editor.clash).toBeNull();
    expect(editor.dirty).toBe(false);
  });

  it("keeps what is typed while a save is on its way", async () => {
    const editor = new Editor(entry({ title: "Lamp" }), localStorage);
    editor.type("title", "The lamp");
    answering({
      status: 200,
      body: { entry: entry({ title: "The lamp" }, '"2-1"'), changed: true, merged_with: [] },
    });
    const saving = editor.save();
    editor.type("title", "The lamp again");
    await saving;
    expect(editor.value("title")).toBe("The lamp again");
    expect(editor.dirty).toBe(true);
  });

  it("passes other refusals on with what to do", async () => {
    const editor = new Editor(entry({ title: "Lamp" }), localStorage);
    editor.type("title", "x");
    answering({
      status: 403,
      body: { type: "urn:hawthorn:problem:refused", detail: "Not here.", remedy: "Ask Ida." },
    });
    const error = await editor.save().catch((caught) => caught);
    expect(error).toBeInstanceOf(Problem);
    expect(error.remedy).toBe("Ask Ida.");
  });
});

describe("logging out", () => {
  it("takes what was typed with whoever typed it, and leaves what is nobody's", async () => {
    const editor = new Editor(entry({ title: "Lamp" }), localStorage, "wim");
    editor.type("title", "The lamp");
    localStorage.setItem("hawthorn:dark", "yes");
    expect(session.unsaved()).toBe(1);
    const asked = answering({ status: 200, body: null });
    await session.logOut();
    expect(asked[0]!.method).toBe("DELETE");
    expect(session.unsaved()).toBe(0);
    expect(localStorage.getItem("hawthorn:dark")).toBe("yes");
  });
});
