import { describe, expect, it } from "vitest";
import type { Blade } from "../api/client";
import { span } from "../words/names";
import { standing } from "../words/standing";
import { grouped } from "./rack-side";

const NOW = Date.parse("2026-11-25T12:00:00Z");
const state = {
  position: 0,
  confirmed_ms: [] as number[],
  quenched: false,
  tempered: false,
  closed: false,
  said: [],
};
const blade = (part: Partial<Blade>) =>
  ({ id: "x", outline: [], plan_id: "p", firing_open: false, ...part }) as Blade;

describe("where a blade stands", () => {
  it.each([
    [blade({ untempered_since: "2026-11-25T11:22:00Z" }), "now", "hard, untempered 38 min"],
    [blade({}), "bench", "planned"],
    [blade({ plan_id: null }), "bench", "no plan yet"],
    [
      blade({
        firing_open: true,
        firing_state: {
          ...state,
          doing: { code: "soaking", heat: { kind: "austenitize", number: 1, count: 1 } },
          confirmed_ms: [NOW - 300_000],
        },
      }),
      "fire",
      "austenitize: soak, 5 min",
    ],
    [
      blade({
        firing_open: true,
        untempered_since: "2026-11-25T11:22:00Z",
        firing_state: { ...state, doing: { code: "in_cold" }, confirmed_ms: [NOW - 300_000] },
      }),
      "fire",
      "in the cold, 5 min",
    ],
    [
      blade({ firing_open: true, firing_state: { ...state, tempered: true } }),
      "now",
      "all done: close the firing",
    ],
    [
      blade({ firing_id: "f", firing_state: { ...state, tempered: true } }),
      "bench",
      "tempered: read and finish",
    ],
  ])("%#", (b, group, text) => {
    expect(standing(b, NOW)).toMatchObject({ group, text });
  });

  it("puts what waits longest first", () => {
    const groups = grouped(
      [
        blade({ mark: "planned" }),
        blade({ mark: "late", untempered_since: "2026-11-25T11:50:00Z" }),
        blade({ mark: "early", untempered_since: "2026-11-25T11:00:00Z" }),
      ],
      NOW,
    );
    expect(groups.map((g) => g.name)).toEqual(["Needs you now", "On the bench"]);
    expect(groups[0]?.blades.map((b) => b.blade.mark)).toEqual(["early", "late"]);
  });

  it("says how long in plain words", () => {
    expect(span(42)).toBe("42 s");
    expect(span(2280)).toBe("38 min");
    expect(span(7500)).toBe("2 h 5 min");
    expect(span(400_000)).toBe("4 days");
  });
});
