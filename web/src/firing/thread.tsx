import type { Firing } from "../api/client";
import { axis, type Corner, layout } from "../drawing/path-layout";
import { orderOf } from "./course";
import css from "./firing.module.css";

/** The path so far in bright, what is to come dotted; `step` is a place in the order of the steps. */
export function Thread({ firing, step }: { firing: Firing; step: number }) {
  const width = 358;
  const steps = orderOf(firing).flatMap((n) => firing.steps[n] ?? []);
  const segments = layout(steps, 4, width - 8);
  const hottest = Math.max(900, ...steps.map((s) => ("temperature_c" in s ? s.temperature_c : 0)));
  const coldest = Math.min(0, ...steps.map((s) => ("temperature_c" in s ? s.temperature_c : 0)));
  const y = axis(6, 66, hottest, coldest);
  // Each part begins where the one before it ended.
  const points = (from: number, to: number) => {
    const before = segments[from - 1]?.corners.at(-1);
    const start: Corner = before ?? [4, 20];
    return [start, ...segments.slice(from, to).flatMap((s) => s.corners)]
      .map(([x, t]) => `${x.toFixed(1)},${y(t).toFixed(1)}`)
      .join(" ");
  };
  return (
    <svg className={css.thread} viewBox={`0 0 ${width} 74`} aria-hidden="true">
      <polyline className="past" points={points(0, step)} />
      <polyline className={css["to-come"]} points={points(step + 1, segments.length)} />
      <polyline className={css.here} points={points(step, step + 1)} />
    </svg>
  );
}
