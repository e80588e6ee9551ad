import { describe, expect, it } from "vitest";
import { added, NOTHING } from "../src/features/translation/estimate";

const entry = (words: Record<string, number>, cost: string) => ({
  entry: "e",
  title: "E",
  units: 2,
  new: 1,
  changed: 1,
  away: 1,
  words,
  cost,
});

describe("what a commission holds", () => {
  it("is the sum of its pages, money to the hundredth and what has no words not among the words", () => {
    let sum = added(NOTHING, [entry({ "no match": 7, "without words": 2 }, "0.10")], "EUR");
    sum = added(sum, [entry({ "no match": 1, exact: 3 }, "0.20"), entry({}, "0.05")], "EUR");
    expect(sum).toEqual({
      units: 6,
      fresh: 3,
      changed: 3,
      away: 3,
      words: 11,
      by: { "no match": 8, exact: 3, "without words": 2 },
      cost: "0.35",
      currency: "EUR",
      trouble: "",
    });
    expect(NOTHING.by).toEqual({});
  });

  it("costs nothing known where nobody said what it costs", () => {
    expect(added(NOTHING, [entry({ "no match": 7 }, "")], "").currency).toBe("");
  });
});
