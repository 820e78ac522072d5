import { describe, expect, it } from "vitest";
import type { DayBar, DayChange } from "../api/client";
import { dayBar, dayOf, NOON } from "../testing/day.test";
import {
  ails,
  asks,
  binding,
  clock,
  cure,
  dayNames,
  departure,
  doneIn,
  news,
  trouble,
} from "./day";
import { say } from "./quantities";

const metric = say({ temperature: "c", length: "mm" });
const day = dayOf([
  dayBar(),
  dayBar({ activity: 2, start_s: NOON + 7200 }),
  dayBar({ blade: "b2" }),
]);
const names = dayNames(day, [{ id: "gone", mark: "K-9" }]);
const first = day.bars[0] as DayBar;

describe("a day in words", () => {
  it("counts the rounds of a temper, and says what cools", () => {
    expect(doneIn(first, day)).toBe("Temper 1 of 2");
    expect(doneIn(day.bars[1] as DayBar, day)).toBe("Temper 2 of 2");
    expect(doneIn(dayBar({ phase: "cooling", step_kind: "normalize" }), day)).toBe(
      "Cool after normalize",
    );
    expect(asks(first, "in")).toBe("in to temper");
    expect(asks(first, "out")).toBe("out of temper");
    expect(asks(dayBar({ step_kind: "quench", phase: "bath" }), "at")).toBe("quench");
  });

  it("says of every bar why it is not earlier", () => {
    const because = (binds: DayBar["binds"]) => binding(dayBar({ binds }), names, day);
    expect(because({ code: "hands", operator: "Tove" })).toContain("Tove would be the first");
    expect(because({ code: "station", station: "oven", blade: "b2", activity: 0 })).toBe(
      `K-2 is in Kitchen oven until ${clock(NOON + 3540)}.`,
    );
    for (const code of ["step_before", "now", "pin"] as const) {
      expect(because({ code })).toMatch(/\.$/);
    }
    for (const code of ["heat", "alone", "bath"] as const) {
      expect(because({ code, station: "oven" })).toContain("Kitchen oven");
    }
    expect(because({ code: "wait", blade: "b1" })).toContain("it would wait hard");
    expect(because({ code: "wait", blade: "b2" })).toContain("K-2 would wait");
  });

  it("tells what is other in one line, of blades that are off too", () => {
    const all: DayChange[] = [
      { code: "moved", blade: "b1", activity: 0, kind: "temper", by_s: 1200 },
      { code: "free", station: "oven", at_s: NOON + 7200, by_s: 1200 },
      { code: "left_out", blade: "gone" },
    ];
    expect(news(all, names, NOON)).toBe(
      `K-9 is off; K-1 temper 20 min later; Kitchen oven free at ${clock(NOON + 7200)}.`,
    );
    expect(news(all, names, NOON, 1)).toBe("K-9 is off; and 2 more.");
  });

  it("says what cannot be, by how much, and what would mend it", () => {
    const measures = { ...day.measures, ails: true, late_s: 5400, left_out: 2 };
    expect(ails(measures)).toBe("2 blades find no room, 90 min late in all.");
    const gives = { code: "longer", operator: "Runa", by_s: 1800 } as const;
    const whole = { gives, cures: true, late_s: 0, left_out: 0, broken_s: 0 };
    expect(cure(whole, names)).toBe("Runa stays 30 min longer");
    expect(cure({ ...whole, cures: false, left_out: 1 }, names)).toContain("leaves 1 without room");
    expect(
      trouble({ code: "no_station", step: 2, kind: "tank", medium: "brine" }, "K-1"),
    ).toContain("a tank of brine");
  });

  it("says what sharing a fire costs", () => {
    expect(departure(first, metric)).toBeNull();
    const apart = dayBar({ heat_c: 215, departs_ppm: 8000, departs_hrc: -0.31 });
    expect(departure(apart, metric)).toContain("10 °C hotter than planned");
    expect(departure(apart, metric)).toContain("0.3 HRC softer, which costs 0.80 in a hundred");
    expect(departure(dayBar({ heat_c: 200 }), metric)).toContain("at no cost");
  });
});
