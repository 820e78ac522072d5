import { describe, expect, it } from "vitest";
import { dayBar, dayOf, NOON } from "../testing/day.test";
import { away, daysLater, lanesOf, dayOf as midnightOf, stacked, windowOf } from "./lanes";
import { byWhom, coming, gathered, meant, momentsOf } from "./moments";

const HOUR = 3600;

describe("a day's window", () => {
  it("shows the hours of work, and not the night that an oven runs on into", () => {
    const overnight = dayBar({ start_s: NOON + 5 * HOUR, end_s: NOON + 20 * HOUR });
    const day = dayOf([dayBar(), { ...overnight, leave_s: NOON + 20 * HOUR - 60 }]);
    const shown = windowOf(day, midnightOf(NOON));
    expect((NOON - shown.from_s) / HOUR).toBe(5);
    expect((shown.to_s - NOON) / HOUR).toBe(7);
  });

  it("follows the calendar over a change of the clock", () => {
    // Whatever the zone, the day after begins at midnight.
    for (const day of [28, 29, 30]) {
      const midnight = new Date(2026, 2, day).getTime() / 1000;
      expect(new Date(daysLater(midnight, 1) * 1000).getHours()).toBe(0);
    }
  });
});

describe("lanes", () => {
  it("puts what lies at the same time beside each other, and what follows in the same row", () => {
    const bars = [0, 0, 2].map((h, activity) => dayBar({ activity, start_s: NOON + h * HOUR }));
    expect(stacked(bars, 60)).toMatchObject({
      rows: 2,
      placed: [{ row: 0 }, { row: 1 }, { row: 0 }],
    });
  });

  it("has a lane for each station in use and one for the air", () => {
    const day = dayOf([dayBar(), dayBar({ activity: 1, station: null, phase: "cooling" })]);
    const shown = windowOf(day, midnightOf(NOON));
    expect(lanesOf(day, shown, 60).map((l) => l.station?.id ?? "air")).toEqual(["oven", "air"]);
  });

  it("shades when nobody is there", () => {
    const shown = { from_s: NOON - 5 * HOUR, to_s: NOON + 7 * HOUR };
    expect(away(dayOf([dayBar()]), shown)).toEqual([
      { from_s: NOON - 5 * HOUR, to_s: NOON - 4 * HOUR },
      { from_s: NOON + 6 * HOUR, to_s: NOON + 7 * HOUR },
    ]);
  });
});

describe("moments", () => {
  it("asks for hands at the door of an oven, and all the while at a bath", () => {
    expect(momentsOf(dayBar()).map((m) => [m.which, m.who])).toEqual([
      ["in", "Runa"],
      ["out", "Runa"],
    ]);
    const quench = dayBar({ attended: true, in_s: 0, out_s: 0, hands: [null, "Tove", null] });
    expect(momentsOf(quench).map((m) => [m.which, m.who])).toEqual([["at", "Tove"]]);
  });

  it("of what goes on leaves only what is left of it", () => {
    const day = dayOf([dayBar({ standing: "running" }), dayBar({ blade: "b2" })]);
    expect(coming(day).map((m) => [m.bar.blade, m.which])).toEqual([
      ["b2", "in"],
      ["b1", "out"],
      ["b2", "out"],
    ]);
  });

  it("are one where the same is done to several blades, but never in a quench", () => {
    const both = dayOf([dayBar(), dayBar({ blade: "b2", start_s: NOON + 60 })]);
    expect(gathered(coming(both)).map((g) => g.blades)).toEqual([
      ["b1", "b2"],
      ["b1", "b2"],
    ]);
    const bath = { phase: "bath", step_kind: "quench", attended: true } as const;
    const baths = dayOf([dayBar(bath), dayBar({ ...bath, blade: "b2" })]);
    expect(gathered(coming(baths))).toHaveLength(2);
  });

  it("go to whom they are for, and are everybody's where nobody is named", () => {
    const day = dayOf([dayBar(), dayBar({ blade: "b2", hands: [null, null, null] })]);
    expect(byWhom(day).map((w) => [w.who, w.moments.length])).toEqual([
      ["Runa", 2],
      ["Tove", 0],
      [null, 2],
    ]);
    expect(meant(coming(day), "Tove")).toHaveLength(2);
    expect(meant(coming(day), null)).toHaveLength(4);
  });
});
