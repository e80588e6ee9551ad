import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { describe, expect, it } from "vitest";
import "../src/messages/translation";
import { t, when } from "../src/lib/i18n";
import main from "../src/messages/en.json";
import events from "../src/messages/en.events.json";
import exchange from "../src/messages/en.exchange.json";
import tour from "../src/messages/en.tour.json";
import figures from "../src/messages/en.figures.json";
import help from "../src/messages/en.help.json";
import release from "../src/messages/en.release.json";
import setup from "../src/messages/en.setup.json";
import translation from "../src/messages/en.translation.json";

function files(folder: string): string[] {
  return readdirSync(folder, { withFileTypes: true }).flatMap((item) =>
    item.isDirectory()
      ? files(join(folder, item.name))
      : /\.(svelte|ts)$/.test(item.name) && item.name !== "schema.d.ts"
        ? [join(folder, item.name)]
        : [],
  );
}

function keys(tree: object, before = ""): string[] {
  return Object.entries(tree).flatMap(([key, value]) =>
    typeof value === "object" ? keys(value, `${before}${key}.`) : [before + key],
  );
}

/** The keys as they are asked for, without what counts. */
const asked = (catalogue: object) => keys(catalogue).map((key) => key.replace(/_(zero|one|other)$/, ""));
/** What comes later, with the module that takes it in. */
const LATER = { events, exchange, figures, release, setup, tour, translation };
const all = [main, help, events, exchange, figures, release, setup, tour, translation].flatMap((one) =>
  keys(one),
);
const known = new Set(
  [main, help, events, exchange, figures, release, setup, tour, translation].flatMap((one) => [
    ...keys(one),
    ...asked(one),
  ]),
);
const source = files("src").map((path) => ({ path, text: readFileSync(path, "utf8") }));

describe("the message catalogue", () => {
  it("has every message that is used", () => {
    const missing = source.flatMap(({ path, text }) =>
      [...text.matchAll(/\bt\(\s*["']([^"']+)["']/g)]
        .map((found) => found[1]!)
        .filter((key) => !known.has(key))
        .map((key) => `${path}: ${key}`),
    );
    expect(missing).toEqual([]);
  });

  it("has no message that nothing uses", () => {
    const written = source.map(({ text }) => text).join("\n");
    const prefixes = [...written.matchAll(/\bt\(\s*`([^`$]*)\$\{/g)].map((found) => found[1]!);
    const unused = all.filter((key) => {
      const plain = key.replace(/_(zero|one|other)$/, "");
      return (
        !written.includes(`"${plain}"`) && !prefixes.some((prefix) => prefix && plain.startsWith(prefix))
      );
    });
    expect(unused).toEqual([]);
  });

  it("has each message once", () => {
    expect(all.filter((key, n) => all.indexOf(key) !== n)).toEqual([]);
  });

  it.each(Object.entries(LATER))("takes in what comes with %s wherever it is said", (name, catalogue) => {
    const late = new Set(asked(catalogue));
    const without = source
      .filter(({ text }) => !text.includes(`messages/${name}"`))
      .flatMap(({ path, text }) =>
        [...text.matchAll(/\bt\(\s*["']([^"']+)["']/g)]
          .filter((found) => late.has(found[1]!))
          .map((found) => `${path}: ${found[1]}`),
      );
    expect(without).toEqual([]);
  });

  it("leaves no words of the interface in components", () => {
    const loose = source
      .filter(({ path }) => path.endsWith(".svelte"))
      .flatMap(({ path, text }) => {
        const markup = text.replace(/<script[\s\S]*?<\/script>/g, "").replace(/<!--[\s\S]*?-->/g, "");
        return [...markup.matchAll(/(?:aria-label|title|placeholder|alt)="([A-Za-z][^"{]*)"/g)]
          .map((found) => found[1]!)
          .filter((words) => words.trim())
          .map((words) => `${path}: ${words}`);
      });
    expect(loose).toEqual([]);
  });

  it("counts and fills in", () => {
    expect(t("jobs.words", { count: 1 })).toBe("1 word");
    expect(t("jobs.words", { count: 3 })).toBe("3 words");
    expect(t("entry.saved", { number: 4 })).toBe("Saved as revision 4.");
  });
});

describe("an instant", () => {
  const now = new Date(2026, 10, 23, 12, 0);
  it.each([
    [new Date(2026, 10, 23, 9, 5), "today, 09:05"],
    [new Date(2026, 10, 24, 9, 0), "tomorrow, 09:00"],
    [new Date(2026, 10, 22, 23, 59), "yesterday, 23:59"],
    [new Date(2026, 11, 4, 18, 0), "Fri 4 Dec, 18:00"],
    [new Date(2027, 0, 1, 0, 0), "Fri 1 Jan 2027, 00:00"],
  ])("is said as a person would", (at, said) => {
    expect(when(at.toISOString(), now)).toBe(said);
  });
});
