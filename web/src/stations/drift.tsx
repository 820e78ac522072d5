import { scaleLinear } from "d3-scale";
import type { Against, CalibrationRow } from "../api/client";
import { useUnits } from "../quantity/units";
import css from "./stations.module.css";

export const HOW: Record<Against, string> = {
  thermometer:
    "Probe beside the blade's place on a heavy tray. Wait until both are steady; read two or three set points where you work.",
  ice_and_boiling_water:
    "Crushed ice just covered with water, stirred; then a rolling boil. The tip free of the wall. Steam burns.",
  blocks: "Three tests on each block, well apart; write their mean.",
};

/** How the correction runs over what is shown, newest check in full, older ones faint. */
export function Drift({ all }: { all: CalibrationRow[] }) {
  const { show, degrees } = useUnits();
  const used = all.filter((c) => !c.withdrawn_at);
  const last = used.at(-1);
  if (!last) return null;
  const hardness = last.against === "blocks";
  const shown = used.flatMap((c) => c.points.map((p) => p[0] ?? 0));
  const off = used.flatMap((c) => c.points.map((p) => (p[0] ?? 0) - (p[1] ?? 0)));
  const pad = hardness ? 5 : 30;
  const low = Math.min(...shown) - pad;
  const high = Math.max(...shown) + pad;
  const [width, height] = [520, 150];
  const x = scaleLinear([low, high], [64, width - 34]);
  const most = Math.max(hardness ? 1 : 5, ...off.map(Math.abs)) * 1.25;
  const y = scaleLinear([-most, most], [height - 26, 8]);
  const path = (c: CalibrationRow) => {
    const points = c.points.map((p) => [p[0] ?? 0, (p[0] ?? 0) - (p[1] ?? 0)] as const);
    const [first, end] = [points[0], points.at(-1)];
    if (!first || !end) return "";
    return [[low, first[1]] as const, ...points, [high, end[1]] as const]
      .map(([a, b]) => `${x(a).toFixed(1)},${y(b).toFixed(1)}`)
      .join(" ");
  };
  const unit = (v: number) =>
    hardness ? `${v < 0 ? "−" : "+"}${Math.abs(v).toFixed(1)} HRC` : degrees(v);
  return (
    <svg
      className={css.drift}
      viewBox={`0 0 ${width} ${height}`}
      role="img"
      aria-label={`How much it shows too much: ${last.points
        .map((p) => `${unit((p[0] ?? 0) - (p[1] ?? 0))} at ${p[0]}`)
        .join(", ")}`}
    >
      {y.ticks(5).map((t) => (
        <g key={t}>
          <line x1={64} x2={width - 34} y1={y(t)} y2={y(t)} className={t === 0 ? "base" : ""} />
          <text x={58} y={y(t) + 4} textAnchor="end">
            {t === 0 ? "0" : unit(t)}
          </text>
        </g>
      ))}
      {x.ticks(6).map((t) => (
        <text key={t} x={x(t)} y={height - 6} textAnchor="middle">
          {hardness ? t : show("temperature", t)}
        </text>
      ))}
      {used.slice(-4).map((c) => (
        <g key={c.id} className={c.id === last.id ? "newest" : css.older}>
          <polyline points={path(c)} />
          {c.points.map((p) => (
            <circle
              key={p[0]}
              cx={x(p[0] ?? 0)}
              cy={y((p[0] ?? 0) - (p[1] ?? 0))}
              r={c.id === last.id ? 4 : 2.5}
            />
          ))}
        </g>
      ))}
    </svg>
  );
}
