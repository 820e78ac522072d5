import type { Maps } from "../api/client";
import { glow } from "./glow";

/** A piece of one column in one colour, mm. */
export interface Piece {
  x: number;
  low: number;
  high: number;
  colour: string;
}

/** Soft to hard: pale to dark. Not heat colours: those mean temperature. */
const HARDNESS: [number, string][] = [
  [35, "#e4dfd0"],
  [42, "#cfcdc0"],
  [48, "#b4b8b0"],
  [54, "#919b97"],
  [58, "#6d7b79"],
  [61, "#4b5d5d"],
  [64, "#2f4345"],
];

export const hardnessColour = (hrc: number) => HARDNESS.find(([h]) => hrc < h)?.[1] ?? "#182b2e";

/** Polished and etched: what hardened is frosty, what stayed soft is darker. */
export function hamonColour(percent: number): string {
  const steps = ["#7d8886", "#8f9997", "#a4adaa", "#bcc3bf", "#d2d7d2", "#e8ebe5"];
  return steps[Math.min(5, Math.floor((percent / 100) * 6))] as string;
}

/** Temperature as it glows; once it no longer glows, grey, and dark where it has turned hard. */
export function quenchColour(celsius: number, martensite: number): string {
  if (martensite >= 50) return "#22383b";
  if (martensite >= 10) return "#5d7071";
  return celsius > 480 ? glow(celsius) : "#a3a7a1";
}

/** Cuts every column into pieces of one colour: far fewer than cells. */
export function pieces(maps: Maps, colour: (cell: number) => string): Piece[] {
  const all: Piece[] = [];
  let cell = 0;
  maps.columns.forEach((column, i) => {
    let open: Piece | undefined;
    for (let j = 0; j < column.count; j++, cell++) {
      const low = maps.y0_mm + (column.first + j) * maps.step_mm;
      const now = colour(cell);
      if (open?.colour === now) {
        open.high = low + maps.step_mm;
        continue;
      }
      open = { x: maps.x0_mm + i * maps.step_mm, low, high: low + maps.step_mm, colour: now };
      all.push(open);
      // The outline cuts the cells: the outermost reach a little beyond it.
      if (j === 0) open.low -= maps.step_mm;
    }
    if (open) open.high += maps.step_mm;
  });
  return all;
}

/** The cell at a place, mm; undefined beside the blade. */
export function cellAt(maps: Maps, x: number, y: number): number | undefined {
  const i = Math.floor((x - maps.x0_mm) / maps.step_mm);
  const row = Math.floor((y - maps.y0_mm) / maps.step_mm);
  const column = maps.columns[i];
  if (!column || row < column.first || row >= column.first + column.count) return undefined;
  const before = maps.columns.slice(0, i).reduce((sum, c) => sum + c.count, 0);
  return before + row - column.first;
}

/** One cell of a section across the blade, edge first, mm. */
export interface Across {
  low: number;
  high: number;
  /** Half the thickness, and how deep it is hardened from each face. */
  half: number;
  deep: number;
}

/** The section across the blade nearest to x, mm. */
export function sectionAt(maps: Maps, x: number): { x: number; cells: Across[] } {
  const i = Math.max(
    0,
    Math.min(maps.columns.length - 1, Math.floor((x - maps.x0_mm) / maps.step_mm)),
  );
  const column = maps.columns[i] ?? { first: 0, count: 0 };
  const before = maps.columns.slice(0, i).reduce((sum, c) => sum + c.count, 0);
  return {
    x: maps.x0_mm + (i + 0.5) * maps.step_mm,
    cells: Array.from({ length: column.count }, (_, j) => {
      const low = maps.y0_mm + (column.first + j) * maps.step_mm;
      const half = (maps.thickness_um10[before + j] ?? 0) / 200;
      const deep = (maps.case_um10[before + j] ?? 0) / 100;
      return { low, high: low + maps.step_mm, half, deep: Math.min(deep, half) };
    }),
  };
}

/** How far each place along the blade is off straight, mm, towards the spine, from its curvature. */
export function bent(curvature: number[][]): [number, number][] {
  let slope = 0;
  let height = 0;
  const raw: [number, number][] = [];
  curvature.forEach(([x = 0, k = 0], i) => {
    const step = i === 0 ? 0 : (x - (curvature[i - 1]?.[0] ?? x)) * 1e-3;
    slope += k * step;
    height += slope * step;
    raw.push([x, height * 1e3]);
  });
  const first = raw[0];
  const last = raw.at(-1);
  if (!first || !last || last[0] === first[0]) return raw;
  // Measured from the line between its ends, as on a flat plate.
  const tilt = (last[1] - first[1]) / (last[0] - first[0]);
  return raw.map(([x, h]) => [x, h - first[1] - tilt * (x - first[0])]);
}
