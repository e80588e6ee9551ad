import { afterAll, beforeEach, describe, expect, it, vi } from "vitest";
import { firstOf } from "../src/lib/language";

describe("the language of the console", () => {
  it.each([
    [["de-AT", "en"], "de"],
    [["nl", "fr-CA"], "fr"],
    [["", "AR"], "ar"],
    [["nl"], "en"],
    [[], "en"],
  ])("is the first of %j that there is", (tags, language) => {
    expect(firstOf(tags)).toBe(language);
  });
});

/** The console's words and days as they are in a language. */
async function speaking(language: string) {
  vi.resetModules();
  localStorage.setItem("hawthorn:language", language);
  const i18n = await import("../src/lib/i18n");
  await i18n.ready();
  return { ...i18n, ...(await import("../src/lib/dates")), ...(await import("../src/lib/language")) };
}

// What other tests have loaded in this process stays English.
afterAll(() => {
  localStorage.removeItem("hawthorn:language");
  vi.resetModules();
});

describe.each(["en", "de", "fr", "ar"])("in %s", (language) => {
  beforeEach(() => localStorage.setItem("hawthorn:language", language));

  it("a day and a moment are read again as they are shown", async () => {
    const { dayFrom, momentFrom, shownDay, shownMoment } = await speaking(language);
    for (let n = 0; n < 24; n++) {
      const day = new Date(Date.UTC(2026, n % 12, 1 + ((n * 5) % 28))).toISOString().slice(0, 10);
      expect(dayFrom(shownDay(day), "2026-01-01")).toBe(day);
      expect(momentFrom(shownMoment(`${day}T09:05`), "2026-01-01")).toBe(`${day}T09:05`);
    }
  });

  it("its own examples are understood", async () => {
    const { dayFrom, momentFrom, t } = await speaking(language);
    const split = (key: string) =>
      t(key)
        .replace(/…$/, "")
        .split(/[,،]/)
        .map((one) => one.trim())
        .filter(Boolean);
    for (const example of split("dates.example"))
      expect(dayFrom(example, "2026-11-25"), example).not.toBeNull();
    for (const example of split("dates.exampleTime"))
      expect(momentFrom(example, "2026-11-25"), example).not.toBeNull();
  });
});

it("each language counts in its own plural forms", async () => {
  const counted = async (language: string) => {
    const { t } = await speaking(language);
    return [1, 2, 3, 11, 100].map((count) => t("list.count", { count }));
  };
  expect(await counted("ar")).toEqual(["مادة واحدة", "مادتان", "3 مواد", "11 مادة", "100 مادة"]);
  expect(await counted("de")).toEqual(["ein Eintrag", ...[2, 3, 11, 100].map((n) => `${n} Einträge`)]);
  expect(await counted("fr")).toEqual(["une entrée", ...[2, 3, 11, 100].map((n) => `${n} entrées`)]);
  expect((await speaking("fr")).t("list.count", { count: 1_000_000 })).toBe("1000000 entrées");
  expect((await speaking("ar")).t("home.none", {})).toBe("home.none");
});

it("days of a week, relative days and hours are typed in the language", async () => {
  const cases: Record<string, [string, string][]> = {
    de: [
      ["nächsten Montag", "2026-11-30"],
      ["in zwei Wochen", "2026-12-09"],
      ["übermorgen", ""],
      ["Mo", "2026-11-30"],
    ],
    fr: [
      ["lundi prochain", "2026-11-30"],
      ["dans 3 jours", "2026-11-28"],
      ["1 août", "2027-08-01"],
    ],
    ar: [
      ["الاثنين القادم", "2026-11-30"],
      ["بعد 3 أيام", "2026-11-28"],
      ["غدًا", "2026-11-26"],
    ],
  };
  for (const [language, said] of Object.entries(cases)) {
    const { dayFrom } = await speaking(language);
    for (const [words, day] of said)
      expect(dayFrom(words, "2026-11-25") ?? "", `${language}: ${words}`).toBe(day);
  }
  expect((await speaking("fr")).momentFrom("demain 9h30", "2026-11-25")).toBe("2026-11-26T09:30");
  expect((await speaking("de")).momentFrom("morgen um 9 Uhr", "2026-11-25")).toBe("2026-11-26T09:00");
});

it("names are sorted as the language sorts them", async () => {
  const { inOrder } = await speaking("de");
  expect(["Zoll", "Äpfel", "Apfel 10", "Apfel 2"].sort(inOrder)).toEqual([
    "Äpfel",
    "Apfel 2",
    "Apfel 10",
    "Zoll",
  ]);
});
