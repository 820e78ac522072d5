import { describe, expect, it } from "vitest";
import { withTemperature } from "../plan/edit-plan";
import { usualOf } from "../plan/judged-by";
import { sighting } from "./sightings";

const eyes = {
  glow: [
    {
      colour: "cherry" as const,
      light: "dim" as const,
      middle_c: 746,
      look_c: 24,
      rgb: [139, 39, 29],
    },
  ],
  signs: [{ sign: { sign: "past_magnet" as const }, about: { middle_c: 795, deviation_c: 12 } }],
  eyes: [],
};

describe("a heat by eye", () => {
  it("is told in words", () => {
    expect(sighting({ sign: "colour", colour: "bright_cherry", light: "dark" })).toBe(
      "bright cherry in the dark",
    );
    expect(sighting({ sign: "magnet_lets_go" })).toBe("the magnet lets go");
  });

  it("is as hot as it usually means, where that is known", () => {
    expect(usualOf({ sign: "colour", colour: "cherry", light: "dim" }, eyes)).toBe(746);
    expect(usualOf({ sign: "past_magnet" }, eyes)).toBe(795);
    expect(usualOf({ sign: "shadow_passed" }, eyes)).toBeNull();
    expect(usualOf({ sign: "past_magnet" }, undefined)).toBeNull();
  });

  it("is by instrument again once degrees are set", () => {
    const judged = {
      kind: "austenitize" as const,
      temperature_c: 795,
      soak_s: 120,
      by: { sign: "past_magnet" as const },
    };
    expect(withTemperature(judged, 815)).toEqual({
      kind: "austenitize",
      temperature_c: 815,
      soak_s: 120,
    });
  });
});
