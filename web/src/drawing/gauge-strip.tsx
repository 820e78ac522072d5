import { useId, useState } from "react";
import type { Interval, Reason } from "../api/client";
import { INCH } from "../quantity/parse";
import { useUnits } from "../quantity/units";
import { because } from "../words/reasons";
import css from "./drawing.module.css";

interface Props {
  name: string;
  unit: string;
  /** Ends of the scale; widened when something lies outside. */
  scale: [number, number];
  wanted?: [number, number];
  now?: Interval;
  /** The frozen prediction of the last firing. */
  earlier?: Interval;
  recorded?: number[];
  /** What it comes to; shown always for the one that leads, otherwise with the reasons. */
  sentence: string;
  leads?: boolean;
  reasons?: Reason[];
  digits?: number;
  /** Instead of the number: for what has none. */
  words?: string;
  /** Shows a value in the shop's unit, with the unit. */
  show?: (value: number) => string;
}

const WIDTH = 330;
const HEIGHT = 21;
/** Room for the end values. */
const END = 30;

/** Where a value lies on the strip, px. */
export function place(value: number, [low, high]: [number, number]): number {
  const share = (Math.min(high, Math.max(low, value)) - low) / (high - low);
  return END + share * (WIDTH - 2 * END);
}

/** The scale, widened to whole steps of five so that everything shown is on it. */
export function widened(scale: [number, number], shown: number[]): [number, number] {
  const low = Math.min(scale[0], ...shown);
  const high = Math.max(scale[1], ...shown);
  // A scale of a few units grows by whole units, a longer one by fives.
  const step = scale[1] - scale[0] > 8 ? 5 : 1;
  return [
    low < scale[0] ? Math.floor(low / step) * step : scale[0],
    high > scale[1] ? Math.ceil(high / step) * step : scale[1],
  ];
}

/** One outcome: scale, wanted window, predicted interval, what was frozen before and what came out. */
export function GaugeStrip(props: Props) {
  const { say, units } = useUnits();
  const { name, wanted, now, earlier, recorded = [], sentence, reasons = [] } = props;
  const { digits = 1, leads = false } = props;
  const [open, setOpen] = useState(false);
  const id = useId();
  const pattern = `${id}-hatch`;
  const shown = [...(wanted ?? []), ...(now ? [now.low, now.high] : []), ...recorded];
  const scale = widened(props.scale, shown);
  const x = (v: number) => place(v, scale);
  // Positions stay in the unit of the API; numbers are written in the one that is read.
  const inch = props.unit === "mm" && units.length === "in";
  const unit = inch ? "in" : props.unit;
  const n = (v: number) => (inch ? (v / INCH).toFixed(2) : v.toFixed(digits));
  // The ends have little room: an inch is written as `.08` or `1.2` there.
  const short = (inches: number) =>
    inches.toFixed(Math.abs(inches) < 1 ? 2 : 1).replace(/^(-?)0\./, "$1.");
  const end = (v: number) => (inch && v !== 0 ? short(v / INCH) : n(v)).replace(/\.0+$/, "");
  const value =
    props.words ?? (now ? (props.show?.(now.middle) ?? `${n(now.middle)} ${unit}`) : "—");
  const spoken = [
    now && `${name} ${n(now.middle)} ${unit}, nine in ten between ${n(now.low)} and ${n(now.high)}`,
    wanted && `wanted ${n(wanted[0])} to ${n(wanted[1])}`,
    earlier && `predicted before firing ${n(earlier.middle)}`,
    recorded.length > 0 && `recorded ${recorded.map(n).join(", ")}`,
  ].filter(Boolean);
  return (
    <section className={css.gauge} aria-label={name}>
      <div className={css.top}>
        <b>{name}</b>
        <button
          type="button"
          className="why"
          aria-expanded={open}
          hidden={reasons.length === 0 && !sentence}
          onClick={() => setOpen(!open)}
        >
          {open ? "less" : "why"}
        </button>
        <span className="num value">{value}</span>
      </div>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        width="100%"
        height={HEIGHT}
        preserveAspectRatio="none"
        role="img"
        aria-label={spoken.join("; ") || undefined}
        aria-hidden={spoken.length === 0}
      >
        <defs>
          <pattern
            id={pattern}
            width="5"
            height="5"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(45)"
          >
            <line x1="0" y1="0" x2="0" y2="5" className={css.hatch} />
          </pattern>
        </defs>
        {wanted && (
          <g className="wanted">
            <rect
              x={x(wanted[0])}
              y="2"
              width={x(wanted[1]) - x(wanted[0])}
              height="17"
              fill={`url(#${pattern})`}
            />
            <line x1={x(wanted[0])} x2={x(wanted[0])} y1="2" y2="19" />
            <line x1={x(wanted[1])} x2={x(wanted[1])} y1="2" y2="19" />
          </g>
        )}
        <line className={css.scale} x1={END} x2={WIDTH - END} y1="10.5" y2="10.5" />
        <line className={css.scale} x1={END} x2={END} y1="6" y2="15" />
        <line className={css.scale} x1={WIDTH - END} x2={WIDTH - END} y1="6" y2="15" />
        {earlier && (
          <rect
            className={css.earlier}
            x={x(earlier.low)}
            y="0"
            width={Math.max(2, x(earlier.high) - x(earlier.low))}
            height="3"
          />
        )}
        {now && (
          <g className={css.now}>
            <rect x={x(now.low)} y="7" width={Math.max(2, x(now.high) - x(now.low))} height="7" />
            <rect className={css.middle} x={x(now.middle) - 1.5} y="3" width="3" height="15" />
          </g>
        )}
        {recorded.map((value, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: values may repeat and never reorder
          <path key={i} className="read" d={`M${x(value)} 4.5l5 6-5 6-5-6z`} />
        ))}
        <text className="end" x={END - 5} y="14.5" textAnchor="end">
          {end(scale[0])}
        </text>
        <text className="end" x={WIDTH - END + 5} y="14.5">
          {end(scale[1])}
        </text>
      </svg>
      {(leads || open) && sentence && <p>{sentence}</p>}
      {open && wanted && (
        <p>
          Wanted {end(wanted[0])} to {end(wanted[1])} {unit}.
        </p>
      )}
      {open && (
        <ul className={css.reasons}>
          {reasons.map((r) => (
            <li key={because(r, say)}>
              <span className="num">
                {r.effect_hrc === undefined || r.effect_hrc === null
                  ? ""
                  : `${r.effect_hrc < 0 ? "−" : "+"}${Math.abs(r.effect_hrc).toFixed(1)}`}
              </span>
              {because(r, say)}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
