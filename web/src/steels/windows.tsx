import { useQuery } from "@tanstack/react-query";
import { scaleLinear } from "d3-scale";
import type { SteelView } from "../api/client";
import { queries } from "../api/queries";
import { useWidth } from "../drawing/heat-path";
import { useUnits } from "../quantity/units";
import { hrc } from "../words/names";
import css from "./steels.module.css";

export const HARDENING: Record<string, string> = {
  not_hardenable: "does not harden",
  water: "water",
  oil: "oil",
  air: "air or plates",
};

export const SUB_ZERO: Record<string, string> = {
  no: "gains little",
  optional: "gains a little",
  yes: "usual",
};

/** Hardness against temper temperature, with the shop's own results on it. */
export function Curve({ steel }: { steel: SteelView }) {
  const points = useQuery(queries.steelPoints(steel.key));
  const [ref, width] = useWidth<HTMLDivElement>(620);
  const { units } = useUnits();
  const height = 240;
  const [x0, x1, y0, y1] = [44, width - 12, 12, height - 30];
  const x = scaleLinear([120, 650], [x0, x1]);
  const y = scaleLinear([30, 68], [y1, y0]);
  const degrees = (t: number) => (units.temperature === "f" ? Math.round((t * 9) / 5 + 32) : t);
  const shown = steel.temper_curve.filter((p) => (p[1] ?? 0) >= 30);
  const brittle = steel.analysis.Cr < 4;
  return (
    <div ref={ref}>
      <svg
        width={width}
        height={height}
        role="img"
        aria-label={`Typical hardness of ${steel.name} after two tempers of two hours, from ${hrc(shown[0]?.[1] ?? 0)} HRC at ${degrees(120)} degrees`}
        className="curve"
      >
        {brittle && (
          <g className={css.brittle}>
            <rect x={x(260)} width={x(370) - x(260)} y={y0} height={y1 - y0} />
            <text x={x(262)} y={y0 + 12}>
              brittle range
            </text>
          </g>
        )}
        {[30, 40, 50, 60].map((h) => (
          <g key={h} className="grid">
            <line x1={x0} x2={x1} y1={y(h)} y2={y(h)} />
            <text x={x0 - 8} y={y(h) + 4} textAnchor="end">
              {h}
            </text>
          </g>
        ))}
        {[150, 200, 300, 400, 500, 600].map((t) => (
          <g key={t} className="grid">
            <line x1={x(t)} x2={x(t)} y1={y1} y2={y1 + 4} />
            <text x={x(t)} y={y1 + 17} textAnchor="middle">
              {degrees(t)}
            </text>
          </g>
        ))}
        <text className="axis" x={x0 - 8} y={y0 + 2} textAnchor="end">
          HRC
        </text>
        {(points.data ?? []).map((p) => (
          <path
            key={`${p.mark} ${p.temper_c} ${p.measured_hrc}`}
            className={css["own-point"]}
            d={`M${x(p.temper_c)} ${y(p.measured_hrc) - 5}l5 5l-5 5l-5 -5z`}
          >
            <title>
              {p.mark}: {hrc(p.measured_hrc)} HRC
            </title>
          </path>
        ))}
        <polyline points={shown.map((p) => `${x(p[0] ?? 0)},${y(p[1] ?? 0)}`).join(" ")} />
      </svg>
      {(points.data ?? []).length > 0 && (
        <p className="fine">
          ◇ your own:{" "}
          {(points.data ?? [])
            .slice(-8)
            .map(
              (p) => `${p.mark} ${hrc(p.measured_hrc)} HRC at ${degrees(Math.round(p.temper_c))}°`,
            )
            .join(", ")}
          .
        </p>
      )}
    </div>
  );
}

/** The working temperatures of a steel on one scale. */
export function Windows({ steel }: { steel: SteelView }) {
  const [ref, width] = useWidth<HTMLDivElement>(620);
  const { show } = useUnits();
  // High-speed steels are hardened hotter than all others.
  const hot = Math.max(steel.austenitize_high_c, steel.coarsening_c) > 1140;
  const x = scaleLinear([650, hot ? 1300 : 1150], [110, width - 140]);
  const marks = hot ? [700, 850, 1000, 1150, 1300] : [700, 800, 900, 1000, 1100];
  // A phone has no room for every tick, nor for a word between line and number.
  const narrow = width < 500;
  const rows: [string, number, number, string][] = [
    [steel.upper_is_ac3 ? "Ac1 to Ac3" : "Ac1 to Acm", steel.ac1_c, steel.upper_c, ""],
    [
      "Austenitize",
      steel.austenitize_low_c,
      steel.austenitize_high_c,
      show("temperature", steel.austenitize_c),
    ],
    ["Anneal", steel.anneal_c - 3, steel.anneal_c + 3, show("temperature", steel.anneal_c)],
  ];
  if (steel.normalize_c) {
    rows.push([
      "Normalize",
      steel.normalize_c - 3,
      steel.normalize_c + 3,
      show("temperature", steel.normalize_c),
    ]);
  }
  return (
    <div ref={ref} className={css.windows}>
      <svg
        width={width}
        height={rows.length * 22 + (narrow ? 38 : 22)}
        role="img"
        aria-label={`Working temperatures of ${steel.name}`}
      >
        <line
          className={css.coarse}
          x1={x(steel.coarsening_c)}
          x2={x(steel.coarsening_c)}
          y1="0"
          y2={rows.length * 22}
        />
        <text
          x={x(steel.coarsening_c) + (narrow ? 0 : 4)}
          y={rows.length * 22 + (narrow ? 33 : -4)}
          textAnchor={narrow ? "middle" : "start"}
          className="note"
        >
          grain coarsens
        </text>
        {(narrow ? [700, 1100] : marks).map((t) => (
          <text key={t} className="tick" x={x(t)} y={rows.length * 22 + 16} textAnchor="middle">
            {show("temperature", t)}
          </text>
        ))}
        {rows.map(([name, low, high, text], i) => (
          <g key={name} transform={`translate(0 ${i * 22 + 2})`}>
            <text x="0" y="13">
              {name}
            </text>
            <line className={css.rule} x1="110" x2={width - 140} y1="9" y2="9" />
            <rect x={x(low)} width={Math.max(3, x(high) - x(low))} y="4" height="10" />
            <text className="num" x={width - 132} y="13">
              {text || `${show("temperature", low)} – ${show("temperature", high)}`}
            </text>
          </g>
        ))}
      </svg>
    </div>
  );
}
