import { render, screen } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { FindingRow } from "../api/client";
import type { Frame, Outline } from "../drawing/blade-drawing";
import { Marks } from "./marks";

const frame = {
  x: (mm: number) => 10 + mm,
  y: (mm: number) => 90 - mm,
  heights: () => [0, 30],
} as unknown as Frame;

const crack = (more: object) =>
  ({ id: "c", withdrawn_at: null, found: { kind: "crack", cracked: true, ...more } }) as FindingRow;

const drawn = (findings: FindingRow[]) =>
  render(
    <svg>
      <title>Blade</title>
      <Marks frame={frame} outline={{} as Outline} readings={[]} findings={findings} pending={[]} />
    </svg>,
  );

describe("what was found on the blade", () => {
  it("has a crack where it was seen", () => {
    const { container } = drawn([crack({ place: [60, 12] })]);
    expect(screen.getByText("A crack")).toBeTruthy();
    expect(container.querySelector("path")?.getAttribute("d")).toMatch(/^M66 68/);
  });

  it("draws none that has no place, was none, or was taken back", () => {
    const { container } = drawn([
      crack({}),
      crack({ place: [60, 12], cracked: false }),
      { ...crack({ place: [60, 12] }), withdrawn_at: "2026-11-30T10:00:00Z" },
    ]);
    expect(container.querySelectorAll("path")).toHaveLength(0);
  });
});
