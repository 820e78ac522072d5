import { describe, expect, it } from "vitest";
import type { Firing } from "../api/client";
import { firing } from "../testing/shop.test";
import { alarmsOf, due } from "./alarms";

/** A blade whose hold of so many seconds began at 0. */
function holding(lasts_s: number, id = "f1"): Firing {
  return {
    ...firing,
    id,
    actions: firing.actions.map((a) => ({ ...a, lasts_s })),
    state: { ...firing.state, position: 1, confirmed_ms: [0] },
  };
}

describe("what is rung for", () => {
  it("is the end of every hold, and two minutes before a long one", () => {
    expect(alarmsOf(holding(300)).map((a) => [a.what, a.at])).toEqual([["up", 300_000]]);
    expect(alarmsOf(holding(7200)).map((a) => [a.what, a.at])).toEqual([
      ["soon", 7_080_000],
      ["up", 7_200_000],
    ]);
  });

  it("is nothing of what is not timed, not begun or closed", () => {
    expect(alarmsOf(firing)).toEqual([]);
    expect(alarmsOf({ ...holding(300), closed_at: "2026-11-25T10:00:00Z" })).toEqual([]);
  });

  it("is every blade in the fire, each moment once, and not what is long over", () => {
    const all = [holding(300, "a"), holding(310, "b")];
    expect(due(all, 299_000, new Set())).toEqual([]);
    const now = due(all, 311_000, new Set());
    expect(now.map((a) => a.firing.id)).toEqual(["a", "b"]);
    const rung = new Set(now.map((a) => a.id));
    expect(due(all, 312_000, rung)).toEqual([]);
    expect(due(all, 600_000, new Set())).toEqual([]);
  });
});
