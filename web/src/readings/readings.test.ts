import { describe, expect, it } from "vitest";
import { readValues } from "./reading-values";

describe("readings as typed", () => {
  it.each([
    ["61.5 62 61", [61.5, 62, 61]],
    ["61,5 62", [61.5, 62]],
    ["61.5, 62, 61", [61.5, 62, 61]],
    ["60/61;62", [60, 61, 62]],
  ])("%s", (text, values) => {
    expect(readValues(text)).toEqual({ values, wrong: null });
  });
  it.each([["61 75"], ["-1"], ["hard"], [""]])("refuses %s", (text) => {
    expect(readValues(text).wrong).not.toBeNull();
  });
});
