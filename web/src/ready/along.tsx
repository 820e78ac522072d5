import { Button } from "react-bootstrap";
import type { Ready } from "../api/client";
import { QuantityInput } from "../quantity/quantity-input";
import css from "./ready.module.css";

/** What was measured at one place along the blade, mm. */
export interface Place {
  x: number;
  spine: number;
  edge: number;
  left: number;
  right: number;
}

interface Sizes {
  length_mm: number;
  width_mm: number;
  spine_mm: number;
  edge_mm: number;
}

/** A value of a list of places at x: linear between them. */
function at<T extends { x_mm: number }>(list: T[], x: number, of: (t: T) => number): number | null {
  const i = list.findIndex((p) => p.x_mm >= x);
  const [b, a] = [list[i], list[i - 1]];
  if (list.length === 0) return null;
  if (!b) return of(list.at(-1) as T);
  if (!a) return of(b);
  return of(a) + ((of(b) - of(a)) * (x - a.x_mm)) / (b.x_mm - a.x_mm);
}

/** The places of a blade, thickness and bevels together. */
export function placesOf(ready: Ready, sizes: Sizes): Place[] {
  const xs = [...ready.taper.map((t) => t.x_mm), ...ready.bevels.map((b) => b.x_mm)];
  return [...new Set(xs)]
    .sort((a, b) => a - b)
    .map((x) => ({
      x,
      spine: at(ready.taper, x, (t) => t.spine_mm) ?? sizes.spine_mm,
      edge: at(ready.taper, x, (t) => t.edge_mm) ?? sizes.edge_mm,
      left: at(ready.bevels, x, (b) => b.left_mm) ?? sizes.width_mm,
      right: at(ready.bevels, x, (b) => b.right_mm) ?? sizes.width_mm,
    }));
}

/** The same as it is stored: bevels only where one of them does not reach the spine. */
export function readyWith(ready: Ready, places: Place[], sizes: Sizes): Ready {
  const sorted = [...places].sort((a, b) => a.x - b.x);
  const ground = sorted.some((p) => p.left < sizes.width_mm || p.right < sizes.width_mm);
  return {
    ...ready,
    taper: sorted.map((p) => ({ x_mm: p.x, spine_mm: p.spine, edge_mm: p.edge })),
    bevels: ground ? sorted.map((p) => ({ x_mm: p.x, left_mm: p.left, right_mm: p.right })) : [],
  };
}

/** A place to measure next: heel, tip, then the middle of the widest gap. */
export function nextPlace(places: Place[], sizes: Sizes): Place {
  const base = {
    spine: sizes.spine_mm,
    edge: sizes.edge_mm,
    left: sizes.width_mm,
    right: sizes.width_mm,
  };
  const last = places.at(-1);
  if (!last) return { x: 0, ...base };
  if (last.x < 0.8 * sizes.length_mm) {
    return { ...last, x: Math.round(0.9 * sizes.length_mm) };
  }
  let best: [number, Place, Place] | null = null;
  for (let i = 1; i < places.length; i++) {
    const [a, b] = [places[i - 1] as Place, places[i] as Place];
    if (!best || b.x - a.x > best[0]) best = [b.x - a.x, a, b];
  }
  if (!best) return { ...last, x: last.x + 10 };
  const [, a, b] = best;
  const half = (p: number, q: number) => Math.round(50 * (p + q)) / 100;
  return {
    x: Math.round((a.x + b.x) / 2),
    spine: half(a.spine, b.spine),
    edge: half(a.edge, b.edge),
    left: half(a.left, b.left),
    right: half(a.right, b.right),
  };
}

const COLUMNS: [keyof Place, string, [number, number]][] = [
  ["x", "From the heel", [-300, 1000]],
  ["spine", "Spine", [0.3, 25]],
  ["edge", "Edge", [0.05, 25]],
  ["left", "Bevel left", [1, 300]],
  ["right", "Bevel right", [1, 300]],
];

interface Props {
  ready: Ready;
  sizes: Sizes;
  errors: (field: string) => string | undefined;
  onChange: (ready: Ready) => void;
}

/** Thickness and bevels where they were measured along the blade. */
export function Along({ ready, sizes, errors, onChange }: Props) {
  const places = placesOf(ready, sizes);
  const set = (next: Place[]) => onChange(readyWith(ready, next, sizes));
  const names: Record<keyof Place, string> = {
    x: "x_mm",
    spine: "spine_mm",
    edge: "edge_mm",
    left: "left_mm",
    right: "right_mm",
  };
  return (
    <section aria-label="Along the blade">
      <h3 className="small-head">Along the blade</h3>
      {places.length === 0 && (
        <p className="fine soft">
          Equally thick from heel to tip, bevels up to the spine. Measure at a few places when it is
          not.
        </p>
      )}
      {places.map((p, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: places have no identity but their order
        <div className={css.place} key={i}>
          {COLUMNS.map(([key, name, range]) => (
            <QuantityInput
              key={key}
              label={`${name}${i === 0 ? "" : ` ${i + 1}`}`}
              hideLabel={i > 0}
              kind="length"
              value={Math.round(100 * p[key]) / 100}
              range={range}
              error={errors(`taper[${i}].${names[key]}`) ?? errors(`bevels[${i}].${names[key]}`)}
              onChange={(v) => set(places.map((q, k) => (k === i ? { ...q, [key]: v } : q)))}
            />
          ))}
          <Button variant="link" onClick={() => set(places.filter((_, k) => k !== i))}>
            Remove
          </Button>
        </div>
      ))}
      <Button variant="link" onClick={() => set([...places, nextPlace(places, sizes)])}>
        Add a place
      </Button>
    </section>
  );
}
