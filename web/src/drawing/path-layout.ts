import type { Step } from "../api/client";

/** A corner of the heat path: x in pixels, temperature in °C. */
export type Corner = [number, number];

export interface Segment {
  step: number;
  x0: number;
  x1: number;
  corners: Corner[];
}

const ROOM = 20;
/** Below this there is room for the name only in short. */
export const NARROW = 62;

function weight(step: Step): number {
  switch (step.kind) {
    case "austenitize":
      return 118;
    case "quench":
      return 70 + 44 * step.stages.length;
    case "temper":
      return 74 + 40 * Math.min(step.times, 3);
    case "sub_zero":
      return 84;
    case "anneal":
      return 90;
    case "check":
    case "coat":
    case "pouch":
    case "stamp":
    case "straighten":
    case "cool":
      return 64;
    case "torch_temper":
      return 72;
    default:
      return 82;
  }
}

function shape(step: Step, w: number, from: number): [number, number][] {
  const up = Math.min(18, w * 0.24);
  switch (step.kind) {
    case "check":
    case "coat":
    case "pouch":
    case "stamp":
      // It stays as warm as it was, and is at room temperature by the end.
      return [
        [w * 0.5, from > 320 ? from : Math.min(from, ROOM)],
        [w, from > 320 ? from : ROOM],
      ];
    case "straighten":
      return [[w, Math.max(ROOM, from * 0.7)]];
    case "cool":
      return [
        [w * 0.6, step.temperature_c],
        [w, step.temperature_c],
      ];
    case "clay":
      return [
        [up, step.temperature_c],
        [w - up, step.temperature_c],
        [w, ROOM],
      ];
    case "preheat":
      return [
        [up, step.temperature_c],
        [w, step.temperature_c],
      ];
    case "torch_temper":
      return [
        [up, step.temperature_c],
        [w * 0.5, step.temperature_c],
        [w - 4, ROOM],
      ];
    case "normalize":
    case "refine":
    case "stress_relief":
      return [
        [up, step.temperature_c],
        [w * 0.5, step.temperature_c],
        [w - 4, ROOM],
      ];
    case "anneal":
      return [
        [up, step.temperature_c],
        [w * 0.45, step.temperature_c],
        [w, ROOM],
      ];
    case "austenitize":
      return [
        [up, step.temperature_c],
        [w, step.temperature_c],
      ];
    case "quench": {
      const each = w / step.stages.length;
      let now = from;
      return step.stages.flatMap((stage, i) => {
        const last = i === step.stages.length - 1;
        const end = last ? stage.bath_c : Math.max(stage.bath_c, now - (now - 300) * 0.7);
        const bend = now - (now - end) * 0.72;
        now = end;
        const corners: [number, number][] = [
          [each * (i + 0.38), bend],
          [each * (i + (last ? 0.82 : 1)), end],
        ];
        if (last) corners.push([w, Math.min(end, Math.max(ROOM, end - 30))]);
        return corners;
      });
    }
    case "sub_zero":
      return [
        [up, step.temperature_c],
        [w - up, step.temperature_c],
        [w - 2, ROOM],
      ];
    case "temper": {
      const each = w / step.times;
      return Array.from({ length: step.times }, (_, i) => i * each).flatMap((a) => [
        [a + Math.min(14, each * 0.2), step.temperature_c] as [number, number],
        [a + each - Math.min(16, each * 0.22), step.temperature_c] as [number, number],
        [a + each - 1, ROOM + 4] as [number, number],
      ]);
    }
  }
}

/**
 * Lays the steps out over a width: every step has its own width, so that a two-second quench and a
 * two-hour temper can both be read.
 */
export function layout(steps: Step[], left: number, width: number): Segment[] {
  const sum = steps.reduce((total, step) => total + weight(step), 0) || 1;
  const scale = Math.min(width / sum, 1.6);
  let x = left;
  let now = ROOM;
  return steps.map((step, i) => {
    const w = weight(step) * scale;
    const corners = shape(step, w, now).map(([dx, t]): Corner => [x + dx, t]);
    const segment = { step: i, x0: x, x1: x + w, corners };
    now = corners.at(-1)?.[1] ?? now;
    x += w;
    return segment;
  });
}

/** The whole line, from room temperature on the left. */
export function line(segments: Segment[], left: number): Corner[] {
  return [[left, ROOM], ...segments.flatMap((s) => s.corners)];
}

/** Temperature axis in three stretches: below zero; to 320 °C, where tempering lives; above. */
export function axis(top: number, bottom: number, hottest: number, coldest: number) {
  const below = coldest < 0 ? 34 : 0;
  const zero = bottom - below;
  const height = zero - top;
  const bend = zero - height * 0.4;
  return (t: number) => {
    if (t < 0) return zero + (below * t) / Math.min(coldest, -1);
    if (t <= 320) return zero - ((zero - bend) * t) / 320;
    return bend - ((bend - top) * (t - 320)) / (hottest - 320);
  };
}
