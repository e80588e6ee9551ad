import { Editor } from "@tiptap/core";
import { describe, expect, it } from "vitest";
import { passages } from "../src/features/content/fields/passages";
import { extensions } from "../src/features/content/fields/rich";
import { putTable, tableTools } from "../src/features/content/fields/table";

/** What the editor gives back for a text, as the service would make it canonical: items without their paragraphs. */
function through(html: string): string {
  const editor = new Editor({
    injectCSS: false,
    content: html,
    extensions: extensions((uuid) => (uuid === "u-1" ? "abc" : "")),
  });
  const out = editor.getHTML().replace(/<li><p>(.*?)<\/p>/g, "<li>$1");
  editor.destroy();
  return out;
}

describe("the text editor", () => {
  it.each([
    "<p>Plain words.</p>",
    "<h2>Head</h2><p>One <strong>two</strong> <em>three</em> <s>four</s> <code>five</code></p>",
    "<p>H<sub>2</sub>O and 3<sup>rd</sup></p>",
    '<p>Say <span lang="fr">bonjour</span> now.</p>',
    '<p><a href="https://x.example/">out</a> and <a href="urn:uuid:018f0000-0000-7000-8000-000000000001">in</a></p>',
    '<p><a href="mailto:a@x.example">write</a></p>',
    "<ul><li>a<ul><li>b</li></ul></li><li>c</li></ul>",
    "<ol><li>first</li><li>second</li></ol>",
    "<blockquote><p>Quoted.</p></blockquote>",
    "<p>One<br>two</p>",
    "<p>Before</p><hr><p>After</p>",
    '<figure><img src="urn:uuid:u-1"><figcaption>A <em>lamp</em></figcaption></figure><p>x</p>',
    "<table><tbody><tr><th>Day</th><th>Hours</th></tr><tr><td>Mon<br><em>Tue</em></td><td></td></tr></tbody></table><p>x</p>",
    "<p>灯台の光 فنار</p>",
  ])("gives back what it was given: %s", (html) => {
    expect(through(html)).toBe(html);
  });

  it("drops what no text here may hold", () => {
    expect(through('<p>a<script>alert(1)</script><a href="javascript:alert(1)">b</a></p>')).not.toContain(
      "javascript",
    );
    expect(through("<p onclick='x()'>a</p>")).toBe("<p>a</p>");
  });
});

describe("a table in the text editor", () => {
  const editor = (content = "<p>Before</p>") => {
    const made = new Editor({ injectCSS: false, content, extensions: extensions(() => "") });
    made.commands.focus("end");
    return made;
  };
  const press = (on: Editor, key: string, shiftKey = false) =>
    on.view.someProp("handleKeyDown", (take) =>
      take(on.view, new KeyboardEvent("keydown", { key, shiftKey })),
    );
  const rows = (on: Editor) => on.getHTML().split("<tr>").length - 1;

  it("is put in with the cursor in its first cell, gone through by Tab, and grows at its end", () => {
    const on = editor();
    putTable(on.chain(), 2, 2).run();
    for (const word of ["Day", "Hours", "Mon", "Nine", "Tue"]) {
      on.commands.insertContent(word);
      press(on, "Tab");
    }
    expect(on.getHTML()).toContain(
      "<tr><th>Day</th><th>Hours</th></tr><tr><td>Mon</td><td>Nine</td></tr><tr><td>Tue</td><td></td></tr>",
    );
    press(on, "Tab", true);
    on.commands.setTextSelection(on.state.selection.to);
    press(on, "Enter");
    on.commands.insertContent("too");
    expect(on.getHTML()).toContain("<td>Tue<br>too</td>");
    on.destroy();
  });

  it("takes rows and columns, and loses them", () => {
    const on = editor();
    putTable(on.chain(), 2, 2).run();
    const does = (name: string) => tableTools.find((tool) => tool.name === name)!.does(on);
    does("rowAfter");
    does("columnBefore");
    expect(rows(on)).toBe(3);
    expect(on.getHTML().split("<th>").length - 1).toBe(3);
    does("heads");
    expect(on.getHTML()).not.toContain("<th>");
    does("rowGone");
    does("columnGone");
    expect([rows(on), on.getHTML().split("<td>").length - 1]).toEqual([2, 4]);
    does("tableGone");
    expect(on.getHTML()).toMatch(/^<p>Before<\/p>(<p><\/p>)?$/);
    on.destroy();
  });

  it("shows the words of a cell that a comment is about", () => {
    const [index, first, past] = [1, 5, 8];
    const on = new Editor({
      injectCSS: false,
      content: "<p>Open</p><table><tr><td>Mon</td><td>a day or</td></tr></table><p>Rest</p>",
      extensions: extensions(() => "", "", [
        passages(
          () => [{ id: "c", index, first, past }],
          () => {},
        ),
      ]),
    });
    const cells = [...on.view.dom.querySelectorAll("td")];
    expect(cells.map((one) => one.querySelector(".commented")?.textContent)).toEqual([undefined, " da"]);
    on.destroy();
  });
});
