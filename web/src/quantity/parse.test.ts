import { describe, expect, it } from "vitest";
import { nudged, parse, show, type Units } from "./parse";

const metric: Units = { temperature: "c", length: "mm" };
const inches: Units = { temperature: "f", length: "in" };

describe("what people write", () => {
  it.each([
    ["temperature", "1500F", metric, 815.556],
    ["temperature", "815", metric, 815],
    ["temperature", "815 °C", inches, 815],
    ["temperature", "1500", inches, 815.556],
    ["temperature", "−75", metric, -75],
    ["length", "3/16", metric, 4.7625],
    ["length", "0.187in", metric, 4.7498],
    ["length", "25 thou", metric, 0.635],
    ["length", "4.8mm", inches, 4.8],
    ["length", "4,8", metric, 4.8],
    ["length", "1 1/2 in", metric, 38.1],
    ["time", "2h", metric, 7200],
    ["time", "90 min", metric, 5400],
    ["time", "1:30", metric, 5400],
    ["time", "1 h 30", metric, 5400],
    ["time", "2.5 s", metric, 2.5],
    ["time", "6", metric, 360],
    ["hardness", "61.5", metric, 61.5],
    ["percent", "0.84 %", metric, 0.84],
  ] as const)("%s %s", (kind, text, units, value) => {
    expect(parse(kind, text, units)).toBeCloseTo(value, 3);
  });

  it.each([
    ["temperature", "hot"],
    ["temperature", "815 K"],
    ["length", "3/0"],
    ["length", "4 furlongs"],
    ["time", "soon"],
    ["time", "1:75"],
    ["hardness", ""],
  ] as const)("refuses %s %s", (kind, text) => {
    expect(parse(kind, text, metric)).toBeNull();
  });
});

describe("what is shown", () => {
  it("is in the user's unit and reads back", () => {
    expect(show("temperature", 815.556, inches)).toBe("1500 °F");
    expect(show("length", 4.7625, inches)).toBe("0.188 in");
    expect(show("time", 7200, metric)).toBe("2 h");
    expect(show("time", 5400, metric)).toBe("90 min");
    expect(show("time", 2.5, metric)).toBe("2.5 s");
    expect(parse("time", show("time", 9000, metric), metric)).toBe(9000);
  });
});

describe("nudging", () => {
  it("moves by the step of the unit", () => {
    expect(nudged("temperature", 815, 1, false, metric)).toBe(820);
    expect(nudged("temperature", 815, -1, true, metric)).toBe(790);
    expect(show("temperature", nudged("temperature", 815.556, 1, false, inches), inches)).toBe(
      "1510 °F",
    );
    expect(nudged("time", 300, 1, false, metric)).toBe(360);
    expect(nudged("time", 0, -1, false, metric)).toBe(0);
  });
});

describe("what nobody would write", () => {
  it("is a finite number or nothing", () => {
    const pieces = [
      "1475",
      "−",
      "3/16",
      "0/0",
      "1e999",
      "9".repeat(400),
      ".",
      ",",
      " ",
      "°",
      "F",
      "mm",
      "h",
      "min",
      "in",
      "\u0000",
    ];
    let seed = 17;
    const below = (n: number) => {
      seed = (seed * 1_103_515_245 + 12_345) % 2_147_483_648;
      return seed % n;
    };
    const kinds = ["temperature", "length", "time", "hardness", "percent"] as const;
    let read = 0;
    for (let i = 0; i < 20_000; i++) {
      const text = Array.from({ length: 1 + below(5) }, () => pieces[below(pieces.length)]).join(
        "",
      );
      const value = parse(kinds[i % 5] ?? "time", text, i % 2 ? metric : inches);
      expect(value === null || Number.isFinite(value), text).toBe(true);
      read += value === null ? 0 : 1;
    }
    expect(read).toBeGreaterThan(100);
  });
});
