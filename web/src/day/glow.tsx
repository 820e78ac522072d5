import type { DayStation } from "../api/client";
import { glow } from "../drawing/glow";
import css from "./day.module.css";
import type { Window } from "./lanes";

const HEIGHT = 14;
/** The top of the scale of a fire, and of an oven, °C. */
const MOST = 1000;
const MOST_OVEN = 320;

/** The temperature of a fire over the day, in the colour that steel glows at it. */
export function Glow(props: { station: DayStation; shown: Window; width: number }) {
  const { station, shown, width } = props;
  const top = station.kind === "oven" ? MOST_OVEN : MOST;
  const x = (s: number) => ((s - shown.from_s) / (shown.to_s - shown.from_s)) * width;
  const y = (c: number) => HEIGHT - 1 - (Math.min(c, top) / top) * (HEIGHT - 2);
  const points = station.heat.map(([s, c]) => [s ?? 0, c ?? 0] as const);
  return (
    <svg className={css.glow} width={width} height={HEIGHT} aria-hidden="true">
      {points.slice(1).map(([s, c], i) => {
        const [s0, c0] = points[i] ?? [s, c];
        if (s < shown.from_s || s0 > shown.to_s) return null;
        return (
          <line
            key={`${s0} ${s}`}
            x1={x(s0)}
            y1={y(c0)}
            x2={x(s)}
            y2={y(c)}
            stroke={glow(Math.max(c, c0))}
          />
        );
      })}
    </svg>
  );
}
