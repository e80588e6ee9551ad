import { Editor } from "@tiptap/core";
import { describe, expect, it } from "vitest";
import { contentOf, extensions, putTag, sentenceIn } from "../src/features/translation/table/chips";
import {
  marked,
  nextWord,
  pieces,
  same,
  wordsIn,
  written,
} from "../src/features/translation/table/sentences";

const made = (sentence: string) =>
  new Editor({ content: contentOf(sentence), extensions: extensions((id) => id), injectCSS: false });

describe("a sentence with tags", () => {
  const sentences = [
    "",
    "Plain words.",
    "It <1>burned</1> oil.<2/>",
    "A <1>link with <2>bold</2></1> &amp; more &lt;here>",
    "  two  spaces ",
    'Put in <n1 of="strong">anew</n1>',
  ];

  it("is taken apart and put together as it was", () => {
    for (const one of sentences) expect(same(written(pieces(one)), one)).toBe(true);
    expect(wordsIn("It <1>burned</1> &lt;oil&amp;")).toBe("It burned <oil&");
    expect(same("a & b", "a &amp; b")).toBe(true);
    expect(same("a <1/>", "a <2/>")).toBe(false);
  });

  it("goes through the editor without a change", () => {
    for (const one of sentences) {
      const editor = made(one);
      expect(same(sentenceIn(editor), one)).toBe(true);
      editor.destroy();
    }
  });

  it("takes a tag around what is marked, and a lone one where the cursor is", () => {
    const editor = made("La lampe.");
    editor.commands.setTextSelection({ from: 4, to: 9 });
    putTag(editor, "1", false);
    expect(sentenceIn(editor)).toBe("La <1>lampe</1>.");
    editor.commands.setTextSelection(1);
    putTag(editor, "2", true);
    expect(sentenceIn(editor)).toBe("<2/>La <1>lampe</1>.");
    // A tag goes as a whole.
    editor.commands.setTextSelection(2);
    editor.commands.deleteRange({ from: 1, to: 2 });
    expect(sentenceIn(editor)).toBe("La <1>lampe</1>.");
    editor.destroy();
  });
});

describe("the words of a glossary", () => {
  it("are marked where they stand, beside tags and by whole characters", () => {
    const sentence = "😀 <1>lam</1>p and bell";
    expect(
      marked(sentence, [
        { start: 2, end: 6 },
        { start: 11, end: 15 },
      ]),
    ).toEqual([
      "😀 ",
      { id: "1", how: "open", of: "" },
      { word: "lam" },
      { id: "1", how: "close", of: "" },
      { word: "p" },
      " and ",
      { word: "bell" },
    ]);
    expect(marked(sentence, [])).toEqual(pieces(sentence));
  });

  it("are put in one after the other, and never one that is not to be used", () => {
    const term = (text: string, status = "preferred") => ({ text, status });
    const line = {
      words: [{ targets: [term("veilleur", "deprecated"), term("gardien")] }, { targets: [term("lampe")] }],
    };
    expect(nextWord(line, "")).toBe("gardien");
    expect(nextWord(line, "Le Gardien")).toBe("lampe");
    expect(nextWord(line, "Le gardien, la lampe")).toBe("gardien");
    expect(nextWord({ words: [] }, "")).toBeUndefined();
  });
});
