import { describe, expect, it } from "vitest";
import folds from "../../../crates/core/tests/folds.json";
import type { Firing } from "../api/client";
import { firing } from "../testing/shop.test";
import type { EventBody } from "./device";
import { fold } from "./fold";

const empty = {
  ...firing,
  steps: folds.steps,
  actions: folds.actions,
  state: { ...firing.state, position: 0, confirmed_ms: [], confirmed_by: [], said: [] },
} as unknown as Firing;

describe("events that the server has not seen", () => {
  it.each(folds.cases.map((c, i) => [i, c] as const))("case %i is as the core says", (_, c) => {
    const events = c.events.map((e) => ({
      ...e,
      at: new Date(e.at_ms).toISOString(),
    })) as unknown as EventBody[];
    const got = JSON.parse(JSON.stringify(fold(empty, events).state));
    const wanted = { ...c.state, untempered_since_ms: c.state.untempered_since_ms ?? undefined };
    expect(got).toEqual(JSON.parse(JSON.stringify(wanted)));
  });

  it("lets be what cannot be: the server will say so", () => {
    const at = "2026-11-25T10:00:00Z";
    const odd: EventBody[] = [
      { id: "1", at, kind: "confirm", action: 4 },
      { id: "2", at, kind: "undo", event: "nobody's" },
      { id: "3", at, kind: "close" },
      { id: "4", at, kind: "confirm", action: 0 },
    ];
    const state = fold(empty, odd).state;
    expect(state.position).toBe(0);
    expect(state.closed).toBe(true);
  });
});
