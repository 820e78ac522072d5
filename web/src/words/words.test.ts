import { describe, expect, it } from "vitest";
import type { PlanRisk, Reason } from "../api/client";
import { changeLabel } from "./changes";
import { cost } from "./checks";
import { culprit } from "./diagnosis";
import { allowed } from "./faults";
import { doing } from "./firing";
import { logNote } from "./logs";
import { say } from "./quantities";
import { because, helps, noLine, temperFor } from "./reasons";
import { edgeLayer } from "./steels";
import { warned } from "./warnings";

const metric = say({ temperature: "c", length: "mm" });
const inch = say({ temperature: "f", length: "in" });

describe("quantities inside a sentence", () => {
  it.each([
    [metric.temperature(-75), "−75 °C", inch.temperature(-75), "−103 °F"],
    [metric.temperatures(260, 370), "260 to 370 °C", inch.temperatures(260, 370), "500 to 698 °F"],
    [metric.difference(-7.6), "8 °C", inch.difference(-7.6), "14 °F"],
    [metric.about(4.27), "4.3 mm", inch.about(4.27), "0.17 in"],
    [metric.fine(0.08), "0.08 mm", inch.fine(0.08), "0.003 in"],
    [metric.time(3600), "1 h", inch.time(45), "45 s"],
    [metric.time(300), "5 min", inch.time(5400), "90 min"],
  ])("are in the units of who reads", (a, mm, b, inches) => {
    expect([a, b]).toEqual([mm, inches]);
  });

  it("a slope is by the degree that is read", () => {
    const slope: Reason = { about: "temper_for_target", code: "temper_slope", hrc_per_k: 0.054 };
    expect(because(slope, metric)).toContain("Each °C of this temper takes 0.05 HRC");
    expect(because(slope, inch)).toContain("Each °F of this temper takes 0.03 HRC");
  });
});

describe("what is allowed", () => {
  const edge = { low: 0.05, high: 25, unit: "millimetre" } as const;
  const bath = { low: 0, high: 120, unit: "celsius" } as const;
  it.each([
    [allowed(edge, metric), "0.05 to 25 mm", allowed(edge, inch), "0.002 to 0.984 in"],
    [allowed(bath, metric), "0 to 120 °C", allowed(bath, inch), "32 to 248 °F"],
  ])("stands in the units of who reads", (a, mm, b, inches) => {
    expect([a, b]).toEqual([mm, inches]);
  });
});

describe("facts", () => {
  const cool: PlanRisk = { code: "below_ac1", temperature_c: 700, ac1_c: 725, steel: "1084" };
  it("are told in either unit", () => {
    expect(warned(cool, metric)).toMatch(/^700 °C is below Ac1 \(725 °C\) of 1084/);
    expect(warned(cool, inch)).toMatch(/^1292 °F is below Ac1 \(1337 °F\) of 1084/);
    const set = {
      change: "set",
      step: 0,
      kind: "austenitize",
      field: "temperature_c",
      value: 815,
    } as const;
    expect(changeLabel(set, metric)).toBe("Austenitize at 815 °C");
    expect(changeLabel(set, inch)).toBe("Austenitize at 1499 °F");
    const wait = { ...set, kind: "sub_zero", field: "wait_s", value: 0 } as const;
    expect(changeLabel(wait, inch)).toBe("Into the cold at once");
  });

  it("have the number of their noun right", () => {
    const left = (rows: number) => logNote({ code: "rows_left_out", rows }, metric);
    expect([left(1), left(3)]).toEqual([
      "1 row without a time or a temperature left out.",
      "3 rows without a time or a temperature left out.",
    ]);
    const results = (n: number) =>
      because({ about: "tempered", code: "steel_results", results: n, learned: true }, metric);
    expect([results(1), results(4)]).toEqual([
      "Your one result on this steel.",
      "Your 4 results on this steel.",
    ]);
  });

  it("leave out of a list what is nothing", () => {
    const none = noLine(
      { code: "too_short", soft_share: 0.6, through_share: 0.4, line_share: 0 },
      metric,
    );
    expect(none).toBe(
      "Of its length 60 % stays soft to the edge, 40 % hardens right through to the spine: too little for a line.",
    );
  });

  it("say why no temper reaches, and what a change costs", () => {
    const hard = { wanted_hrc: 69.5, out_of_reach: { code: "too_hard", top_hrc: 64.2 } } as const;
    expect(temperFor(hard, metric)).toContain("more than this plan reaches: 64.2");
    const text = helps(
      {
        about: "hamon",
        fix: { change: "remove", step: 1 },
        from: { code: "line", height_mm: 4 },
        to: { code: "line", height_mm: 12 },
        costs: [{ code: "crack", probability: 0.09 }],
        share: 0.9,
      },
      inch,
    );
    expect(text).toBe("Line 0.16 in → 0.47 in; costs: cracks 9 %.");
  });

  it("turn lengths inside advice that is always the same", () => {
    const skin = { cause: "skin_read", chance: 0.2, why: [] } as const;
    expect(culprit({ ...skin, why: [] }, metric).check).toMatch(/^Grind 0.2 mm off one spot/);
    expect(culprit({ ...skin, why: [] }, inch).check).toMatch(/^Grind 0.008 in off one spot/);
    const edge = { code: "edge", edge_mm: 0.4, skin_mm: 0.1, sound_mm: 0.2, thin: true } as const;
    const told = cost(
      { check: "edge_left_thick", standing: "bad", measured: true, cost: edge },
      inch,
    );
    expect(told).toBe(
      "0.016 in of edge, 0.004 in of skin lost on each face: 0.008 in stays sound; it may ripple or burn.",
    );
    expect(doing({ code: "heating", heat: { kind: "normalize", number: 2, count: 3 } })).toBe(
      "Normalize 2 of 3: heating",
    );
  });

  it("say of steel without a paper what it was, and where an edge layer ends", () => {
    const coloured = {
      code: "temper_by_colour",
      colour: "dark_straw",
      light: "dim",
      middle_c: 200,
      deviation_c: 13,
      hrc: 0.84,
    } as const;
    expect(because({ about: "tempered", learned: false, ...coloured }, metric)).toMatch(
      /dark straw in a dim shop: about 200 °C, give or take 13 °C, which is 0\.8 HRC/,
    );
    const untried: PlanRisk = { code: "steel_untried", was: "rail" };
    expect(warned(untried, metric)).toMatch(/: it was a piece of rail\. Quench/);
    const known: Reason = {
      about: "tempered",
      code: "known_by_salvage",
      was: "file",
      tried: true,
      low_percent: 0.95,
      high_percent: 1.4,
      learned: false,
    };
    expect(because(known, metric)).toBe(
      "Known by what it was, an old file, and what was tried of it: 0.95 to 1.40 % carbon, and the interval as wide as all that it may be.",
    );
    expect(edgeLayer({ thickness_mm: 1.2, ends_mm: 8.04 }, metric)).toBe(
      "Edge layer 1.2 mm thick here: it ends 8.0 mm above the edge.",
    );
    expect(edgeLayer({ thickness_mm: 1.2, ends_mm: 0 }, metric)).toMatch(/grind it thinner/);
    expect(edgeLayer({ thickness_mm: 5 }, metric)).toMatch(/never show/);
  });
});
