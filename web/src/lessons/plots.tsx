import { scaleLinear } from "d3-scale";
import type { OutcomeLesson } from "../api/client";
import { useWidth } from "../drawing/heat-path";
import { INCH, type Units as Quantities } from "../quantity/parse";
import { useUnits } from "../quantity/units";
import css from "./lessons.module.css";
import { amount, isLength, OUTCOMES, off } from "./words";

/** Points drawn at most: the newest. */
const MOST = 500;

/** Ends of a scale and round steps between them. */
export function scale(low: number, high: number): { low: number; high: number; ticks: number[] } {
  const span = Math.max(high - low, 1e-3);
  const rough = span / 5;
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = power * ([1, 2, 5, 10].find((s) => s * power >= rough) ?? 10);
  const from = Math.floor(low / step) * step;
  const to = Math.max(Math.ceil(high / step) * step, from + step);
  const ticks = Array.from({ length: Math.round((to - from) / step) + 1 }, (_, i) =>
    Number((from + i * step).toPrecision(6)),
  );
  return { low: from, high: to, ticks };
}

/** A scale of factors, as logarithms: from one to the first round one that is enough. */
export function factors(most: number): { high: number; ticks: number[] } {
  const round = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000];
  const enough = round.findIndex((f) => Math.log(f) >= most);
  const ticks = round.slice(0, enough < 1 ? 2 : enough + 1).map(Math.log);
  return { high: ticks[ticks.length - 1] ?? 1, ticks };
}

/** Measured against predicted when the blade was left out; on the diagonal is right. */
export function Scatter({ of, marks }: { of: OutcomeLesson; marks: Record<string, string> }) {
  const units = useUnits();
  const [ref, width] = useWidth<HTMLDivElement>(520);
  const size = Math.min(width, 380);
  const points = of.lesson.points.slice(-MOST);
  // Ratios are told on a logarithmic scale: half and twice are equally far.
  const log = of.lesson.measure === "ratio";
  const per = perUnit(of, units.units);
  const put = (v: number) => (log ? Math.log10(Math.max(v, 0.01) * per) : v * per);
  const all = points.flatMap((p) => [put(p.measured), put(p.low), put(p.high)]);
  const s = scale(Math.min(...all), Math.max(...all));
  const along = scaleLinear([s.low, s.high], [44, size - 14]);
  const at = (v: number) => along(put(v));
  const up = (x: number) => size - x + 12;
  const y = (v: number) => up(at(v));
  const ticks = log ? s.ticks.filter(Number.isInteger) : s.ticks;
  return (
    <div ref={ref}>
      <svg
        width={size}
        height={size + 16}
        role="img"
        aria-label={`${OUTCOMES[of.outcome]}: measured against predicted, each blade from all the others`}
        className="curve"
      >
        {ticks.map((t) => (
          <g key={t} className="grid">
            <line x1={40} x2={size - 10} y1={up(along(t))} y2={up(along(t))} />
            <text x={36} y={up(along(t)) + 4} textAnchor="end">
              {log ? 10 ** t : t}
            </text>
            <text x={along(t)} y={size - 14} textAnchor="middle">
              {log ? 10 ** t : t}
            </text>
          </g>
        ))}
        <line
          className={css.diagonal}
          x1={44}
          x2={size - 14}
          y1={size - 32}
          y2={26}
          data-testid="right"
        />
        {points.map((p, i) => (
          <g
            // biome-ignore lint/suspicious/noArrayIndexKey: a blade has several points
            key={i}
            className={p.held ? css["lesson-point"] : `${css["lesson-point"]} ${css.missed}`}
          >
            <line x1={at(p.low)} x2={at(p.high)} y1={y(p.measured)} y2={y(p.measured)} />
            <path d={`M${at(p.predicted)} ${y(p.measured) - 4}l4 4-4 4-4-4z`}>
              <title>
                {marks[p.blade ?? ""] ?? "?"}: predicted {amount(of.outcome, p.predicted, units)},
                measured {amount(of.outcome, p.measured, units)}
              </title>
            </path>
          </g>
        ))}
        <text className="axis" x={size - 12} y={size + 8} textAnchor="end">
          predicted without that blade{unit(of, units.units)}
        </text>
        <text className="axis" x={44} y={14}>
          measured{unit(of, units.units)}
        </text>
      </svg>
    </div>
  );
}

/** A value of the API in the unit of the axis. */
const perUnit = (of: OutcomeLesson, units: Quantities) =>
  isLength(of.outcome) && units.length === "in" ? 1 / INCH : 1;

/** The unit, said once on the axis. */
function unit(of: OutcomeLesson, units: Quantities): string {
  if (of.outcome === "grain") return ", ASTM number";
  if (!isLength(of.outcome)) return ", HRC";
  return units.length === "in" ? ", in" : ", mm";
}

/** How far predictions were off on the day, as the records grew. */
export function Curve({ of }: { of: OutcomeLesson }) {
  const units = useUnits();
  const [ref, width] = useWidth<HTMLDivElement>(520);
  const { curve } = of.lesson;
  if (curve.length < 2) return null;
  const [w, h] = [Math.min(width, 460), 170];
  const most = Math.max(...curve.flatMap((s) => [s.rms, s.physics_rms]));
  const ratio = of.lesson.measure === "ratio";
  const per = ratio ? 1 : perUnit(of, units.units);
  const s = ratio ? factors(most) : scale(0, most * per);
  const total = Math.max(...curve.map((c) => c.after + c.blades));
  const x = scaleLinear([0, total], [50, w - 16]);
  const y = scaleLinear([0, s.high], [h - 34, 28]);
  const middle = (c: (typeof curve)[0]) => x(c.after + c.blades / 2);
  const path = (v: (c: (typeof curve)[0]) => number) =>
    curve.map((c, i) => `${i ? "L" : "M"}${middle(c)} ${y(v(c) * per)}`).join("");
  return (
    <div ref={ref}>
      <svg
        width={w}
        height={h}
        role="img"
        aria-label="How far predictions were off on the day, blade after blade"
        className="curve"
      >
        {s.ticks.map((t) => (
          <g key={t} className="grid">
            <line x1={46} x2={w - 10} y1={y(t)} y2={y(t)} />
            <text x={42} y={y(t) + 4} textAnchor="end">
              {ratio ? `×${Math.round(Math.exp(t))}` : t}
            </text>
          </g>
        ))}
        <path className={css["by-physics"]} d={path((c) => c.physics_rms)} />
        <path className={css["on-the-day"]} d={path((c) => c.rms)} />
        {curve.map((c) => (
          <g key={c.after} className={css["lesson-point"]}>
            <path d={`M${middle(c)} ${y(c.rms * per) - 4}l4 4-4 4-4-4z`}>
              <title>
                Blades {c.after + 1} to {c.after + c.blades}: off by {off(of, c.rms, units)},
                physics alone by {off(of, c.physics_rms, units)}
              </title>
            </path>
          </g>
        ))}
        <text className="axis" x={50} y={14}>
          off by{ratio ? " a factor" : unit(of, units.units)}: on the day{" "}
          <tspan className="key">◇</tspan>, physics alone <tspan className="key">- -</tspan>
        </text>
        <text className="axis" x={50} y={h - 14}>
          first blade
        </text>
        <text className="axis" x={w - 12} y={h - 14} textAnchor="end">
          blade {total}
        </text>
      </svg>
    </div>
  );
}
