import type { ClayFace, Stroke } from "../api/client";
import { heights, type Outline } from "../drawing/blade-drawing";

/** Layings-out of our own to start from. Each is drawn along this blade's own edge. */
export const TEMPLATES = {
  even: "Even line",
  swell: "Long swells",
  legs: "Legs to the edge",
  isles: "Isles",
  tang: "Tang and heel only",
} as const;
export type Template = keyof typeof TEMPLATES;

interface Laid {
  outline: Outline;
  length: number;
  width: number;
  /** Where the coat begins above the edge, mm. */
  from: number;
  /** How thick it is, mm. */
  thickness: number;
}

const clamp = (v: number, low: number, high: number) => Math.min(high, Math.max(low, v));

/** The face that a template lays on. */
export function laid(template: Template, of: Laid): ClayFace {
  const { outline, length, width, thickness } = of;
  const from = clamp(of.from, 0, 300);
  const edge = (x: number) => heights(outline, x)?.[0] ?? 0;
  const strokes: Stroke[] = [];
  switch (template) {
    case "even":
      return { band: { from_edge_mm: from, thickness_mm: thickness }, strokes };
    case "swell": {
      // A brush follows a slow wave; the coat above it is the band.
      const brush = clamp(width * 0.22, 3, 12);
      const points: [number, number][] = [];
      for (let x = 2; x <= length - 2; x += 4) {
        const swell = 0.5 * brush * Math.sin((2 * Math.PI * x) / 46 + 0.6 * Math.sin(x / 31));
        points.push([x, edge(x) + from + 0.5 * brush + swell]);
      }
      strokes.push({ points, width_mm: brush, thickness_mm: thickness });
      return { band: { from_edge_mm: from + brush, thickness_mm: thickness }, strokes };
    }
    case "legs": {
      // Thin legs every 14 mm or so, at uneven steps: they harden less and break the line.
      for (let i = 0, x = 8; x < length - 6; i++, x += 12 + (i % 3) * 2) {
        const foot = edge(x) + Math.max(1.5, from * (0.35 + 0.1 * (i % 2)));
        strokes.push({
          points: [
            [x + 1.5, edge(x) + from + 1],
            [x, foot],
          ],
          width_mm: 1.6,
          thickness_mm: clamp(thickness * 0.5, 0.1, 10),
        });
      }
      return { band: { from_edge_mm: from, thickness_mm: thickness }, strokes };
    }
    case "isles": {
      for (let i = 0, x = 12; x < length - 8; i++, x += 19) {
        const up = edge(x) + from * (0.55 + 0.12 * (i % 2));
        strokes.push({
          points: [
            [x, up],
            [x + 3, up],
          ],
          width_mm: 3.2,
          thickness_mm: thickness,
        });
      }
      return { band: { from_edge_mm: from, thickness_mm: thickness }, strokes };
    }
    case "tang": {
      const xs = outline.map((p) => p[0] ?? 0);
      const start = Math.min(...xs);
      const middle = width * 0.5;
      strokes.push({
        points: [
          [start, middle],
          [Math.min(8, length * 0.06), middle],
        ],
        width_mm: clamp(width * 1.6, 1, 100),
        thickness_mm: clamp(Math.max(thickness, 3), 0, 10),
      });
      return { strokes };
    }
  }
}
