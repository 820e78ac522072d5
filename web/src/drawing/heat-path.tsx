import { useEffect, useId, useRef, useState } from "react";
import type { Prediction, Step } from "../api/client";
import { useUnits } from "../quantity/units";
import { STEPS } from "../words/names";
import css from "./drawing.module.css";
import { axis, layout, line, NARROW } from "./path-layout";
import { pieces, stepNumbers, stepSentence } from "./step-words";

/** The drawn width of an element, kept current. */
export function useWidth<T extends HTMLElement>(initial: number) {
  const ref = useRef<T>(null);
  const [width, setWidth] = useState(initial);
  useEffect(() => {
    const element = ref.current;
    if (!element) return;
    const observer = new ResizeObserver(([entry]) => {
      if (entry) setWidth(Math.max(320, Math.floor(entry.contentRect.width)));
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  return [ref, width] as const;
}

const HEIGHT = 306;

const LEFT = 52;

const RIGHT = 126;

const TOP = 26;

const BOTTOM = 252;

interface Props {
  steps: Step[];
  selected: number;
  onSelect?: (step: number) => void;
  onKeyDown?: (event: React.KeyboardEvent) => void;
  prediction?: Prediction;
}

/** Keeps labels apart: moves each down to at least `gap` below the one above. */
export function spread(ys: number[], gap: number, bottom: number): number[] {
  const order = ys.map((y, i) => [y, i] as const).sort((a, b) => a[0] - b[0]);
  const out = [...ys];
  let before = Number.NEGATIVE_INFINITY;
  for (const [y, i] of order) {
    const at = Math.max(y, before + gap);
    out[i] = at;
    before = at;
  }
  const over = before - bottom;
  return over > 0 ? out.map((y) => y - over) : out;
}

/** One line from bar to finished temper; steps are chosen and nudged on it. */
export function HeatPath({ steps, selected, onSelect, onKeyDown, prediction }: Props) {
  const [ref, room] = useWidth<HTMLDivElement>(1048);
  // On a small screen the path keeps its size and is scrolled.
  const width = Math.max(760, room);
  const { show, units } = useUnits();
  const id = useId();
  const hottest = Math.max(
    950,
    ...steps.map((s) => ("temperature_c" in s ? s.temperature_c + 40 : 0)),
  );
  const coldest = Math.min(0, ...steps.map((s) => ("temperature_c" in s ? s.temperature_c : 0)));
  const y = axis(TOP, BOTTOM, hottest, coldest);
  const segments = layout(steps, LEFT, width - LEFT - RIGHT);
  const right = segments.at(-1)?.x1 ?? width - RIGHT;
  const degrees = (t: number) =>
    units.temperature === "f" ? Math.round((t * 9) / 5 + 32) : Math.round(t);
  const ticks =
    units.temperature === "f"
      ? [32, 200, 400, 600, 1000, 1400, 1800].map((f) => ((f - 32) * 5) / 9)
      : [0, 100, 200, 300, 500, 700, 900];
  const levels = prediction?.levels;
  const lines: [string, number][] = levels
    ? [
        [levels.upper_is_ac3 ? "Ac3" : "Acm", levels.upper_c.middle],
        ["non-magnetic", levels.curie_c],
        ["Ac1", levels.ac1_c.middle],
        ["martensite starts", levels.martensite_start_c.middle],
      ]
    : [];
  if (levels && levels.martensite_finish_c > coldest && levels.martensite_finish_c > 20) {
    lines.push(["martensite done", levels.martensite_finish_c]);
  }
  const labelYs = spread(
    lines.map(([, t]) => y(t)),
    13,
    BOTTOM,
  );
  const flags = (prediction?.warnings ?? []).map((w, i) => ({ ...w, number: i + 1 }));
  const chosen = segments[selected];
  const quenched = steps.findLastIndex((s) => s.kind === "quench");
  const quench = segments[quenched];
  const [dotX, dotT] = chosen
    ? (chosen.corners.find(([, t]) => {
        const s = steps[selected];
        return s && "temperature_c" in s ? t === s.temperature_c : true;
      }) ?? [chosen.x0, 20])
    : [0, 0];
  return (
    <div
      className={css["heat-path"]}
      ref={ref}
      role="listbox"
      tabIndex={0}
      aria-label="Heat path. Left and right choose a step, up and down change its temperature, with Alt its time; A adds, D doubles, Delete removes a step."
      aria-activedescendant={chosen ? `${id}-${selected}` : undefined}
      onKeyDown={onKeyDown}
    >
      <svg width={width} height={HEIGHT} aria-hidden="true">
        <title>Heat path</title>
        {ticks.map((t) => (
          <g key={t} className="grid">
            <line
              x1={LEFT}
              x2={right}
              y1={y(t)}
              y2={y(t)}
              className={Math.abs(t) < 1 ? "base" : ""}
            />
            <text x={LEFT - 8} y={y(t) + 4} textAnchor="end">
              {degrees(t)}
            </text>
          </g>
        ))}
        {chosen && (
          <rect
            className="chosen"
            x={chosen.x0}
            y={TOP - 16}
            width={chosen.x1 - chosen.x0}
            height={HEIGHT - TOP + 14}
          />
        )}
        {levels && quench && levels.martensite_start_c.middle > 20 && (
          <rect
            className={css.martensite}
            x={quench.x0 + (quench.x1 - quench.x0) * 0.4}
            y={y(levels.martensite_start_c.middle)}
            width={(quench.x1 - quench.x0) * 0.6}
            height={y(20) - y(levels.martensite_start_c.middle)}
          />
        )}
        {lines.map(([name, t], i) => (
          <g key={name} className={css.level}>
            <line x1={LEFT} x2={right} y1={y(t)} y2={y(t)} />
            <polyline
              points={`${right},${y(t)} ${right + 8},${labelYs[i]} ${right + 12},${labelYs[i]}`}
            />
            <text x={right + 15} y={(labelYs[i] ?? 0) + 4}>
              {name} {degrees(t)}
            </text>
          </g>
        ))}
        {pieces(line(segments, LEFT)).map((p) => (
          <line
            key={`${p.from[0]} ${p.from[1]} ${p.to[0]} ${p.to[1]}`}
            className={css.heat}
            x1={p.from[0]}
            y1={y(p.from[1])}
            x2={p.to[0]}
            y2={y(p.to[1])}
            stroke={p.colour}
          />
        ))}
        {chosen && <circle className={css.dot} cx={dotX} cy={y(dotT)} r={5.5} />}
        {flags.map((flag) => {
          if (flag.step === undefined || flag.step === null) return null;
          const s = segments[flag.step];
          if (!s) return null;
          const mine = flags.filter((f) => f.step === flag.step);
          const x = s.x0 + (s.x1 - s.x0) * 0.3 + mine.indexOf(flag) * 24;
          return (
            <g key={flag.number} className={css.flag} transform={`translate(${x} 4)`}>
              <line x1="0" x2="0" y1="0" y2="28" />
              <path d="M0 0h20l-5 8 5 8h-20z" />
              <text x="5" y="12">
                {flag.number}
              </text>
            </g>
          );
        })}
      </svg>
      {segments.map((s) => {
        const step = steps[s.step] as Step;
        const [first, second] = stepNumbers(step, show);
        const w = s.x1 - s.x0;
        const numbers = flags.filter((f) => f.step === s.step).map((f) => f.number);
        return (
          // biome-ignore lint/a11y/useKeyWithClickEvents: the listbox around it takes the keys
          // biome-ignore lint/a11y/useFocusableInteractive: focus stays on the listbox
          <div
            key={`${s.step}-${step.kind}`}
            id={`${id}-${s.step}`}
            role="option"
            aria-selected={s.step === selected}
            aria-label={`Step ${s.step + 1} of ${steps.length}: ${stepSentence(step, show)}${
              numbers.length > 0 ? `, warning ${numbers.join(", ")}` : ""
            }`}
            className={`${css.step}${s.step === selected ? " on" : ""}${w < NARROW ? ` ${css.narrow}` : ""}`}
            style={{ left: s.x0, width: w }}
            onClick={() => onSelect?.(s.step)}
          >
            <b>{STEPS[step.kind]}</b> <span className="num">{first}</span>{" "}
            <span className={css.second}>{second}</span>
          </div>
        );
      })}
    </div>
  );
}
