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
  extras: folds.extras,
  order: folds.steps.map((_, i) => i),
  planned: undefined,
  state: { ...firing.state, position: 0, confirmed_ms: [], confirmed_by: [], said: [] },
} as unknown as Firing;

describe("events that the server has not seen", () => {
  it.each(folds.cases.map((c, i) => [i, c] as const))("case %i is as the core says", (_, c) => {
    const events = c.events.map((e) => ({
      ...e,
      at: new Date(e.at_ms).toISOString(),
    })) as unknown as EventBody[];
    const folded = fold(empty, events);
    const got = JSON.parse(JSON.stringify(folded.state));
    const wanted = { ...c.state, untempered_since_ms: c.state.untempered_since_ms ?? undefined };
    expect(got).toEqual(JSON.parse(JSON.stringify(wanted)));
    if ("actions" in c) {
      expect(JSON.parse(JSON.stringify(folded.actions))).toEqual(c.actions);
      expect(folded.order).toEqual(c.order);
      expect(JSON.parse(JSON.stringify(folded.steps))).toEqual(c.steps);
    }
  });

  it.each(folds.cases.map((c, i) => [i, c] as const))(
    "case %i is the same when the server has seen a part of it",
    (_, c) => {
      const events = c.events.map((e) => ({
        ...e,
        at: new Date(e.at_ms).toISOString(),
      })) as unknown as EventBody[];
      for (const upto of [1, Math.floor(events.length / 2), events.length]) {
        const seen = fold(empty, events.slice(0, upto));
        // What was said goes by its event only on the device that said it.
        const rest = events.slice(upto);
        const said = new Set(events.slice(0, upto).flatMap((e) => (e.kind === "say" ? e.id : [])));
        if (rest.some((e) => e.kind === "undo" && said.has(e.event ?? ""))) continue;
        const [all, parts] = [fold(empty, events), fold(seen, rest)];
        expect(parts.state.position).toEqual(all.state.position);
        expect(parts.order).toEqual(all.order);
        expect(parts.actions).toEqual(all.actions);
      }
    },
  );

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
