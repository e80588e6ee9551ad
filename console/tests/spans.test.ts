import { describe, expect, it } from "vitest";
import { spans } from "../src/features/content/spans";

const DAY = 86_400_000;
const at = (day: number) => new Date(day * DAY).toISOString();
const stood = (stage: string, revision: number, since: number, until: number | null = null) => ({
  stage,
  revision,
  since: at(since),
  until: until === null ? null : at(until),
});
const move = (verb: "release" | "withdraw" | "advance", day: number, revision: number | null = null) => ({
  dispatch: "d",
  name: "",
  verb,
  instant: at(day),
  wall: "",
  zone: "",
  revision,
  goes: true,
});

describe("a line of time", () => {
  it("has a stretch for each revision that stood, and what is planned after them", () => {
    const line = spans(
      [stood("release", 1, 0, 10), stood("release", 2, 10)],
      [move("release", 30, 3), move("withdraw", 40)],
      20 * DAY,
    );
    const found = line.stages[0]!.spans.map((one) => [
      one.revision,
      one.from / DAY,
      one.until && one.until / DAY,
      one.planned,
    ]);
    expect(found).toEqual([
      [1, 0, 10, false],
      [2, 10, 30, false],
      [3, 30, 40, true],
    ]);
    const ends = line.stages[0]!.spans.map((one) => one.start + one.width);
    expect(Math.max(...ends)).toBeLessThanOrEqual(100);
    expect(line.now).toBeGreaterThan(line.stages[0]!.spans[1]!.start);
    expect(line.now).toBeLessThan(line.stages[0]!.spans[2]!.start);
  });

  it("does not foresee what a quiet period will hold", () => {
    const held = { ...move("release", 30, 2), goes: false };
    const line = spans([stood("release", 1, 0)], [held], 20 * DAY);
    expect(line.stages[0]!.spans.map((one) => [one.revision, one.until])).toEqual([[1, null]]);
  });

  it("draws what is short wide enough to be hit, and nothing where nothing stood", () => {
    const line = spans([stood("review", 1, 0, 0.001), stood("release", 1, 0.001)], [], 1000 * DAY);
    expect(line.stages[0]!.spans[0]!.width).toBeGreaterThanOrEqual(3);
    expect(spans([], [], DAY).stages).toEqual([]);
    expect(spans([], [move("advance", 3, 1)], DAY).stages).toEqual([]);
  });

  it("shows a first release that is only planned", () => {
    const line = spans([], [move("release", 3)], DAY);
    expect(line.stages[0]!.spans.map((one) => [one.revision, one.planned])).toEqual([[null, true]]);
  });
});
