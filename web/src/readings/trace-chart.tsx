import { scaleLinear, scaleTime } from "d3-scale";
import type { TraceView } from "../api/client";
import { useWidth } from "../drawing/heat-path";
import { useUnits } from "../quantity/units";
import css from "./readings.module.css";

const HEIGHT = 210;

/** What really was as a line, over what was planned as hatched stretches. */
export function TraceChart({ trace }: { trace: TraceView }) {
  const { units } = useUnits();
  const [ref, width] = useWidth<HTMLDivElement>(760);
  const f = units.temperature === "f";
  const degree = (c: number) => (f ? c * 1.8 + 32 : c);
  const times = trace.samples.map((s) => s[0] ?? 0);
  const temperatures = trace.samples.map((s) => s[1] ?? 0);
  const x = scaleTime([new Date(times[0] ?? 0), new Date(times.at(-1) ?? 1)], [46, width - 12]);
  const top = Math.max(100, ...temperatures, ...trace.steps.map((s) => s.planned_c + 20));
  const low = Math.min(0, ...temperatures);
  const y = scaleLinear([degree(low), degree(top)], [HEIGHT - 24, 8]);
  const at = (ms: number) => x(new Date(ms));
  // A line is not drawn over a gap: nothing is known there.
  let path = "";
  trace.samples.forEach(([ms = 0, c = 0], i) => {
    const gap = i === 0 || ms - (times[i - 1] ?? 0) > 300_000;
    path += `${gap ? "M" : "L"}${at(ms).toFixed(1)} ${y(degree(c)).toFixed(1)}`;
  });
  return (
    <div ref={ref} className={css["trace-chart"]}>
      <svg
        width={width}
        height={HEIGHT}
        role="img"
        aria-label={`${trace.name}: between ${Math.round(degree(Math.min(...temperatures)))} and ${Math.round(degree(Math.max(...temperatures)))} °${f ? "F" : "C"}`}
      >
        <defs>
          <pattern
            id="planned"
            width="6"
            height="6"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(45)"
          >
            <line x1="0" y1="0" x2="0" y2="6" />
          </pattern>
        </defs>
        {y.ticks(5).map((t) => (
          <g key={t} className="tick">
            <line x1={46} x2={width - 12} y1={y(t)} y2={y(t)} />
            <text x={42} y={y(t) + 4} textAnchor="end">
              {t}
            </text>
          </g>
        ))}
        {x.ticks(7).map((t) => (
          <text key={t.getTime()} className="time" x={x(t)} y={HEIGHT - 6} textAnchor="middle">
            {t.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" })}
          </text>
        ))}
        {trace.steps.map((s) => {
          const begin = Math.max(at(s.from_ms), 46);
          return (
            <g key={s.step} className="planned">
              <rect
                x={begin}
                width={Math.max(Math.min(at(s.to_ms), width - 12) - begin, 1)}
                y={y(degree(s.planned_c + 6))}
                height={y(degree(s.planned_c - 6)) - y(degree(s.planned_c + 6))}
                fill="url(#planned)"
              />
            </g>
          );
        })}
        <path d={path} className={css.line} />
      </svg>
    </div>
  );
}
