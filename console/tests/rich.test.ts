import { Editor } from "@tiptap/core";
import { describe, expect, it } from "vitest";
import { extensions } from "../src/features/content/fields/rich";

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
