import { beforeEach, describe, expect, it } from "vitest";
import { dayBar, dayOf, NOON } from "../testing/day.test";
import { ahead } from "./ahead";
import { setWhose } from "./whose";

const day = dayOf([dayBar({ start_s: NOON + 600 })]);

describe("alarms ahead", () => {
  beforeEach(() => setWhose(null));

  it("ring five minutes before, once, and not for what is long near", () => {
    expect(ahead(day, NOON, new Set())).toHaveLength(0);
    const [moment] = ahead(day, NOON + 301, new Set());
    expect(moment?.which).toBe("in");
    expect(ahead(day, NOON + 301, new Set(["b1 0 in"]))).toHaveLength(0);
    expect(ahead(day, NOON + 590, new Set())).toHaveLength(0);
  });

  it("ring on the device of whoever is meant", () => {
    setWhose("Tove");
    expect(ahead(day, NOON + 301, new Set())).toHaveLength(0);
    setWhose("Runa");
    expect(ahead(day, NOON + 301, new Set())).toHaveLength(1);
  });
});
