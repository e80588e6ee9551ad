import { describe, expect, it } from "vitest";
import { dayFrom, momentFrom, placeInWeek, shownDay, shownMoment, weekday, weeksOf } from "../src/lib/dates";
import { instantIn, later, todayIn, wallIn } from "../src/lib/days";

const today = "2026-11-26"; // a Thursday

describe("a day that is typed", () => {
  it.each([
    ["2026-11-30", "2026-11-30"],
    ["today", "2026-11-26"],
    ["Tomorrow", "2026-11-27"],
    ["yesterday", "2026-11-25"],
    ["monday", "2026-11-30"],
    ["thu", "2026-12-03"],
    ["next Friday", "2026-12-04"],
    ["next monday", "2026-11-30"],
    ["in two weeks", "2026-12-10"],
    ["in 3 days", "2026-11-29"],
    ["in a month", "2026-12-26"],
    ["30.11.", "2026-11-30"],
    ["1/2/27", "2027-02-01"],
    ["25.11", "2027-11-25"],
    ["30 Nov 2026", "2026-11-30"],
    ["Mon, 30 Nov", "2026-11-30"],
    ["sept 3", "2027-09-03"],
    ["3. January", "2027-01-03"],
    ["29 feb", "2028-02-29"],
    ["29 feb 2027", null],
    ["31.4.", null],
    ["2026-02-30", null],
    ["3", null],
    ["in the end", null],
    ["ju 3", null],
    ["", null],
  ])("%s", (text, day) => expect(dayFrom(text, today)).toBe(day));

  it("is what it is shown as", () => {
    for (let n = 0; n < 800; n += 7) {
      const day = later(today, { days: n });
      expect(dayFrom(shownDay(day, { day: "numeric", month: "long", year: "numeric" }), today)).toBe(day);
    }
  });

  it("after a month ends where the month ends", () => {
    expect(later("2027-01-31", { months: 1 })).toBe("2027-02-28");
    expect(later("2028-12-31", { months: 2 })).toBe("2029-02-28");
    expect(weekday("2026-11-29")).toBe(7);
  });
});

describe("a time that is typed", () => {
  it.each([
    ["2026-11-30T09:00", "2026-11-30T09:00"],
    ["2026-11-30 09:00:30", "2026-11-30T09:00:30"],
    ["tomorrow 9", "2026-11-27T09:00"],
    ["tomorrow at 9 pm", "2026-11-27T21:00"],
    ["next monday 14.30", "2026-11-30T14:30"],
    ["30 Nov 12am", "2026-11-30T00:00"],
    ["30 Nov noon", "2026-11-30T12:00"],
    ["friday midnight", "2026-11-27T00:00"],
    ["in two weeks", "2026-12-10T09:00"],
    ["30 Nov 2026", "2026-11-30T09:00"],
    ["tomorrow 25", null],
    ["tomorrow 13 pm", null],
    ["tomorrow 9:75", null],
    ["soon", null],
  ])("%s", (text, wall) => expect(momentFrom(text, today)).toBe(wall));

  it("is shown in words, to the second where it has one", () => {
    expect(shownMoment("2026-11-30T09:00")).toBe("Mon, 30 Nov 2026, 09:00");
    expect(shownMoment("2026-11-30T09:00:30")).toBe("Mon, 30 Nov 2026, 09:00:30");
    expect(shownMoment("2026-11-30T09:00:00")).toBe("Mon, 30 Nov 2026, 09:00");
    expect(momentFrom(shownMoment("2026-11-30T09:00"), today)).toBe("2026-11-30T09:00");
  });

  it("is of the day that it is where somebody is", () => {
    const at = new Date("2026-11-26T23:30:00Z");
    expect([todayIn("Asia/Tokyo", at), todayIn("UTC", at)]).toEqual(["2026-11-27", "2026-11-26"]);
  });

  it.each([
    ["Europe/Paris", "2026-11-30", "2026-11-29T23:00:00.000Z"],
    ["Asia/Tokyo", "2026-11-30T09:00", "2026-11-30T00:00:00.000Z"],
    ["Asia/Kathmandu", "2026-11-30T00:15", "2026-11-29T18:30:00.000Z"],
    // The days on which the clock goes forward and back, before and after it does.
    ["Europe/Paris", "2026-03-29", "2026-03-28T23:00:00.000Z"],
    ["Europe/Paris", "2026-03-29T09:00", "2026-03-29T07:00:00.000Z"],
    ["Europe/Paris", "2026-10-25T00:30", "2026-10-24T22:30:00.000Z"],
    ["America/New_York", "2026-11-01T12:00", "2026-11-01T17:00:00.000Z"],
  ])("comes in %s at %s: %s", (zone, wall, instant) => {
    expect(instantIn(zone, wall).toISOString()).toBe(instant);
    expect(wallIn(zone, new Date(instant))).toBe(wall.length > 10 ? wall : `${wall}T00:00`);
  });

  it("lies in whole weeks, as many as its month takes", () => {
    const shown = (month: string, least?: number) => weeksOf(`${month}-09`, least);
    expect(shown("2027-02").map((week) => week[0])).toEqual([
      "2027-02-01",
      "2027-02-08",
      "2027-02-15",
      "2027-02-22",
    ]);
    expect([shown("2026-11").length, shown("2026-08").length, shown("2027-02", 6).length]).toEqual([6, 6, 6]);
    expect([shown("2026-12")[0]![0], shown("2026-12").at(-1)!.at(-1)]).toEqual(["2026-11-30", "2027-01-03"]);
    expect([placeInWeek("2026-11-30"), placeInWeek("2026-11-29")]).toEqual([0, 6]);
  });
});
