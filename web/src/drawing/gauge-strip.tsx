import { useId, useState } from "react";
import type { Interval, Reason } from "../api/client";

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
  sentence: string;
  reasons?: Reason[];
  digits?: number;
}

const WIDTH = 330;
const HEIGHT = 34;

/** Where a value lies on the strip, px. */
export function place(value: number, [low, high]: [number, number]): number {
  return 1 + ((Math.min(high, Math.max(low, value)) - low) / (high - low)) * (WIDTH - 2);
}

/** The scale, widened to whole steps of five so that everything shown is on it. */
export function widened(scale: [number, number], shown: number[]): [number, number] {
  const low = Math.min(scale[0], ...shown);
  const high = Math.max(scale[1], ...shown);
  return [
    low < scale[0] ? Math.floor(low / 5) * 5 : scale[0],
    high > scale[1] ? Math.ceil(high / 5) * 5 : scale[1],
  ];
}

/** One outcome: scale, wanted window, predicted interval, what was frozen before and what came out. */
export function GaugeStrip(props: Props) {
  const { name, unit, wanted, now, earlier, recorded = [], sentence, reasons = [] } = props;
  const { digits = 1 } = props;
  const [open, setOpen] = useState(false);
  const id = useId();
  const pattern = `${id}-hatch`;
  const shown = [...(wanted ?? []), ...(now ? [now.low, now.high] : []), ...recorded];
  const scale = widened(props.scale, shown);
  const x = (v: number) => place(v, scale);
  const n = (v: number) => v.toFixed(digits);
  const spoken = [
    now && `${name} ${n(now.middle)} ${unit}, nine in ten between ${n(now.low)} and ${n(now.high)}`,
    wanted && `wanted ${n(wanted[0])} to ${n(wanted[1])}`,
    earlier && `predicted before firing ${n(earlier.middle)}`,
    recorded.length > 0 && `recorded ${recorded.map(n).join(", ")}`,
  ].filter(Boolean);
  return (
    <section className="gauge" aria-label={name}>
      <div className="top">
        <b>{name}</b>
        <span className="num value">{now ? `${n(now.middle)} ${unit}` : "—"}</span>
      </div>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        width="100%"
        height={HEIGHT}
        preserveAspectRatio="none"
        role="img"
        aria-label={spoken.join("; ")}
      >
        <defs>
          <pattern
            id={pattern}
            width="5"
            height="5"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(45)"
          >
            <line x1="0" y1="0" x2="0" y2="5" className="hatch" />
          </pattern>
        </defs>
        {wanted && (
          <g className="wanted">
            <rect
              x={x(wanted[0])}
              y="3"
              width={x(wanted[1]) - x(wanted[0])}
              height="18"
              fill={`url(#${pattern})`}
            />
            <line x1={x(wanted[0])} x2={x(wanted[0])} y1="3" y2="21" />
            <line x1={x(wanted[1])} x2={x(wanted[1])} y1="3" y2="21" />
          </g>
        )}
        <line className="scale" x1="1" x2={WIDTH - 1} y1="12.5" y2="12.5" />
        <line className="scale" x1="1" x2="1" y1="8" y2="17" />
        <line className="scale" x1={WIDTH - 1} x2={WIDTH - 1} y1="8" y2="17" />
        {earlier && (
          <rect
            className="earlier"
            x={x(earlier.low)}
            y="0"
            width={Math.max(2, x(earlier.high) - x(earlier.low))}
            height="3"
          />
        )}
        {now && (
          <g className="now">
            <rect x={x(now.low)} y="9" width={Math.max(2, x(now.high) - x(now.low))} height="7" />
            <rect className="middle" x={x(now.middle) - 1.5} y="4.5" width="3" height="16" />
          </g>
        )}
        {recorded.map((value, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: values may repeat and never reorder
          <path key={i} className="read" d={`M${x(value)} 6.5l5 6-5 6-5-6z`} />
        ))}
        <text className="end" x="1" y="33">
          {n(scale[0]).replace(/\.0$/, "")}
        </text>
        <text className="end" x={WIDTH - 1} y="33" textAnchor="end">
          {n(scale[1]).replace(/\.0$/, "")}
        </text>
        {wanted && (
          <text
            className="want"
            x={Math.min(WIDTH - 70, Math.max(34, x((wanted[0] + wanted[1]) / 2)))}
            y="33"
            textAnchor="middle"
          >
            wanted {n(wanted[0]).replace(/\.0$/, "")} to {n(wanted[1]).replace(/\.0$/, "")}
          </text>
        )}
      </svg>
      <p>
        {sentence}
        {reasons.length > 0 && (
          <button type="button" className="why" aria-expanded={open} onClick={() => setOpen(!open)}>
            {open ? "less" : "why"}
          </button>
        )}
      </p>
      {open && (
        <ul className="reasons">
          {reasons.map((r) => (
            <li key={r.text}>
              <span className="num">
                {r.effect_hrc === undefined || r.effect_hrc === null
                  ? ""
                  : `${r.effect_hrc < 0 ? "−" : "+"}${Math.abs(r.effect_hrc).toFixed(1)}`}
              </span>
              {r.text}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
