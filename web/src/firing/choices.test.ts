import { describe, expect, it } from "vitest";
import folds from "../../../crates/core/tests/folds.json";
import type { Firing } from "../api/client";
import { firing } from "../testing/shop.test";
import { choice } from "../words/deviations";
import { type Choice, choices, leavesHard } from "./choices";
import type { EventBody } from "./device";
import { fold } from "./fold";
import { shared } from "./joining";

/** Normalize twice, the hardening heat, water and oil, two tempers; this many actions confirmed. */
function firedTo(confirmed: number, then: Choice["how"] = []): Firing {
  const at = "2026-11-25T10:00:00Z";
  const begun = {
    ...firing,
    steps: folds.steps,
    actions: folds.actions,
    extras: folds.extras,
    order: folds.steps.map((_, i) => i),
    state: { ...firing.state, position: 0, confirmed_ms: [], confirmed_by: [], said: [] },
  } as unknown as Firing;
  const presses = Array.from(
    { length: confirmed },
    (_, action): EventBody => ({ id: `c${action}`, at, kind: "confirm", action }),
  );
  const ways = then.map((how, i): EventBody => ({ id: `d${i}`, at, kind: "deviate", how }));
  return fold(begun, [...presses, ...ways]);
}

const words = (of: Firing) => choices(of).map(choice);

describe("how a firing can go on", () => {
  it("has one more heat, leaves the next out or draws what is later forward", () => {
    expect(words(firedTo(2))).toEqual([
      "10 s longer",
      "10 s shorter",
      "Normalize once more",
      "Leave out: normalize",
      "Put in: stress relief",
      "Put in: straighten",
    ]);
  });

  it("leaves out no hardening heat and no quench", () => {
    expect(words(firedTo(6)).some((w) => /austenitize|quench$/i.test(w))).toBe(false);
  });

  it("leaves a second bath or a second temper out by itself", () => {
    expect(words(firedTo(9))).toContain("Leave out: bath 2");
    expect(words(firedTo(13))).toContain("Leave out: round 2");
  });

  it("asks before the only temper of a hard blade is left out", () => {
    const out = (of: Firing) => choices(of).filter((c) => c.what === "left_out");
    // All of its only temper, and only the second round of it.
    const [all] = out(firedTo(11));
    expect(all && leavesHard(firedTo(11), all)).toBe(true);
    const second = out(firedTo(13)).find((c) => c.round);
    expect(second && leavesHard(firedTo(13), second)).toBe(false);
    // Before the quench a heat may be left out.
    const early = out(firedTo(2))[0];
    expect(early && leavesHard(firedTo(2), early)).toBe(false);
  });

  it("hardens again once it is out of the bath, from normalizing or straight from hard", () => {
    const again = "Harden again, straight from hard";
    expect(words(firedTo(9))).not.toContain(again);
    expect(words(firedTo(11))).toEqual(
      expect.arrayContaining([again, "Harden again, from normalizing"]),
    );
    const straight = choices(firedTo(11)).find((c) => choice(c) === again);
    const then = firedTo(11, straight?.how);
    expect(then.order.map((n) => then.steps[n]?.kind)).toEqual([
      "normalize",
      "normalize",
      "austenitize",
      "quench",
      "austenitize",
      "quench",
      "temper",
    ]);
  });

  it("offers nothing of a firing that is closed", () => {
    expect(choices({ ...firedTo(3), closed_at: "2026-11-25T10:00:00Z" })).toEqual([]);
  });
});

describe("a blade that joins", () => {
  it("is in the fire by the press of the other where both begin alike", () => {
    expect(shared(firedTo(1), firedTo(0))).toBe(true);
    expect(shared(firedTo(2), firedTo(0))).toBe(false);
    expect(shared(firedTo(0), firedTo(0))).toBe(false);
    const hotter = {
      ...firedTo(0),
      steps: firedTo(0).steps.map((s) => ({ ...s, temperature_c: 900 })),
    };
    expect(shared(firedTo(1), hotter as Firing)).toBe(false);
  });
});
