import { describe, expect, it } from "vitest";
import { readAnalysis } from "./analysis";

describe("an analysis as typed", () => {
  it("reads percents and leaves out what is empty", () => {
    expect(readAnalysis({ C: "0,84 %", Mn: "0.8", Cr: "" })).toEqual({
      analysis: { C: 0.84, Mn: 0.8 },
      errors: {},
    });
  });
  it("names each bad element", () => {
    expect(readAnalysis({ C: "3", Mn: "much", Cr: "12" }).errors).toEqual({
      C: "0.05 to 2.5 %",
      Mn: "Not a number.",
    });
    expect(readAnalysis({}).errors).toEqual({ C: "Carbon is needed." });
  });
});
