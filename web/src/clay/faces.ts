import type { Clay, ClayFace, Stroke } from "../api/client";
import { faceOf } from "../drawing/clay-layer";
import { type Place, thinned } from "./line";

/** Strokes a face keeps. */
const STROKES = 400;

/** The clay with one face changed; where both are the same, they stay so. */
export function withFace(clay: Clay, right: boolean, face: ClayFace): Clay {
  if (!clay.right) return { ...clay, left: face, right: null };
  return right ? { ...clay, right: face } : { ...clay, left: face };
}

/** The clay with a stroke over what lies there; one of no thickness wipes. */
export function stroked(
  clay: Clay,
  right: boolean,
  points: Place[],
  brush: { width: number; thickness: number },
): Clay {
  const face = faceOf(clay, right);
  const stroke: Stroke = {
    points: thinned(points),
    width_mm: brush.width,
    thickness_mm: brush.thickness,
  };
  return withFace(clay, right, {
    ...face,
    strokes: [...(face.strokes ?? []), stroke].slice(-STROKES),
  });
}

/** Both faces as the one that is shown, or each on its own. */
export function joined(clay: Clay, right: boolean, same: boolean): Clay {
  if (same) return { ...clay, left: faceOf(clay, right), right: null };
  return { ...clay, right: structuredClone(faceOf(clay, true)) };
}

export function swapped(clay: Clay): Clay {
  return { ...clay, left: clay.right ?? clay.left, right: clay.left };
}

/** Whether there is any clay. */
export function isPainted(clay: Clay): boolean {
  return [clay.left, clay.right].some(
    (f) => f && (f.band || (f.strokes ?? []).some((s) => s.thickness_mm > 0)),
  );
}
