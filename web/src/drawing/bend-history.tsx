import type { Maps } from "../api/client";
import { useUnits } from "../quantity/units";
import css from "./drawing.module.css";

const HIGH = 46;

/** Where a time lies among the moments, 0 to 1: the scrubber goes from one to the next in even steps. */
export function shareOf(times: number[], time: number): number {
  const last = times.length - 1;
  const after = times.findIndex((t) => t >= time);
  if (last < 1 || after === 0) return 0;
  if (after < 0) return 1;
  const [a = 0, b = 0] = [times[after - 1], times[after]];
  return (after - 1 + (b > a ? (time - a) / (b - a) : 0)) / last;
}

/** How the blade curves edge to spine on its way, under the scrubber's own time. */
export function BendHistory({ maps, at }: { maps: Maps; at: number }) {
  const { about } = useUnits();
  const times = maps.moments.map((m) => m.time_s);
  const now = times[at] ?? 0;
  const moments = maps.bend_moments;
  const most = Math.max(0.1, ...moments.map((m) => Math.abs(m.sori_mm)));
  const y = (mm: number) => (HIGH / 2) * (1 - (0.9 * mm) / most);
  const near = [...moments].sort((a, b) => Math.abs(a.time_s - now) - Math.abs(b.time_s - now))[0];
  if (!near) return null;
  const sag = near.sori_mm;
  return (
    <figure className={css["bend-history"]}>
      <svg viewBox={`0 0 1000 ${HIGH}`} preserveAspectRatio="none" height={HIGH} aria-hidden="true">
        <line x1={0} x2={1000} y1={HIGH / 2} y2={HIGH / 2} />
        <polyline
          points={moments
            .map(
              (m) => `${(1000 * shareOf(times, m.time_s)).toFixed(1)},${y(m.sori_mm).toFixed(1)}`,
            )
            .join(" ")}
        />
        <line
          className={css.now}
          x1={1000 * shareOf(times, now)}
          x2={1000 * shareOf(times, now)}
          y1={0}
          y2={HIGH}
        />
      </svg>
      <figcaption className="soft">
        {Math.abs(sag) < 0.05
          ? "Now straight, edge to spine."
          : `Now curved ${about(Math.abs(sag))} to the ${sag > 0 ? "spine" : "edge"}; above the line is to the spine.`}
      </figcaption>
    </figure>
  );
}
