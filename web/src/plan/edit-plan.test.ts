import { describe, expect, it } from "vitest";
import type { Step } from "../api/client";
import type { Units } from "../quantity/parse";
import { apply, fresh, insert, nudge, remove, withTime } from "./edit-plan";

const metric: Units = { temperature: "c", length: "mm" };
const steps: Step[] = [
  { kind: "austenitize", temperature_c: 815, soak_s: 300 },
  { kind: "quench", stages: [{ medium: "fast_oil", bath_c: 50 }] },
  { kind: "temper", temperature_c: 205, hold_s: 7200, times: 2 },
];

describe("editing a plan", () => {
  it("nudges temperature and time without touching the old plan", () => {
    expect(nudge(steps, 2, "temperature", 1, false, metric)[2]).toMatchObject({
      temperature_c: 210,
    });
    expect(nudge(steps, 0, "temperature", -1, true, metric)[0]).toMatchObject({
      temperature_c: 790,
    });
    expect(nudge(steps, 0, "time", 1, false, metric)[0]).toMatchObject({ soak_s: 360 });
    expect(steps[2]).toMatchObject({ temperature_c: 205 });
  });
  it("stays inside what is possible", () => {
    const hot: Step[] = [{ kind: "austenitize", temperature_c: 1299, soak_s: 0 }];
    expect(nudge(hot, 0, "temperature", 1, false, metric)[0]).toMatchObject({
      temperature_c: 1300,
    });
    expect(nudge(hot, 0, "time", -1, false, metric)[0]).toMatchObject({ soak_s: 0 });
    expect(nudge(steps, 9, "time", 1, false, metric)).toBe(steps);
    // An oil-only quench has no seconds to change.
    expect(nudge(steps, 1, "time", 1, false, metric)).toBe(steps);
    expect(withTime(steps[2] as Step, 0)).toMatchObject({ hold_s: 60 });
  });
  it("inserts, removes and applies fixes", () => {
    expect(insert(steps, 1, fresh("sub_zero", 815, null))[1]?.kind).toBe("sub_zero");
    expect(remove(steps, 1)).toHaveLength(2);
    const set = {
      change: "set",
      step: 0,
      kind: "austenitize",
      field: "soak_s",
      value: 600,
    } as const;
    expect(apply(steps, set)[0]).toMatchObject({ soak_s: 600 });
    const cold = { ...fresh("sub_zero", 815, null), wait_s: 43_200 } as Step;
    const now = { change: "set", step: 0, kind: "sub_zero", field: "wait_s", value: 0 } as const;
    // The wait goes, the hold beside it stays.
    expect(apply([cold], now)[0]).toMatchObject({ wait_s: 0, hold_s: 7200 });
    expect(apply(steps, { change: "remove", step: 0 })[0]?.kind).toBe("quench");
    expect(
      apply(steps, { change: "insert", at: 3, step: fresh("temper", 815, null) }),
    ).toHaveLength(4);
  });
});
