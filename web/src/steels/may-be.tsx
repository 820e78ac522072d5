import type { Reclaimed } from "../api/client";
import { percentOf } from "../words/trials";
import css from "./steels.module.css";

/** The axis of carbon, percent, and its width. */
const TOP = 1.6;
const WIDE = 420;
const at = (percent: number) => (Math.min(percent, TOP) / TOP) * WIDE;

/** What a piece may be made of: the likeliest grades, and sixteen analyses as likely as each other along carbon. */
export function MayBe({ known }: { known: Reclaimed }) {
  const [low, middle, high] = known.carbon as [number, number, number];
  const two = (x: number) => x.toFixed(2);
  return (
    <section aria-label="What it may be" className={css["may-be"]}>
      <h2>What it may be</h2>
      <svg
        viewBox={`-16 0 ${WIDE + 32} 46`}
        role="img"
        aria-label={`Carbon ${two(low)} to ${two(high)} %, as likely above as below ${two(middle)} %`}
      >
        <line className={css.axis} x1={0} x2={WIDE} y1={28} y2={28} />
        <rect className={css.span} x={at(low)} y={24} width={at(high) - at(low)} height={8} />
        {known.analyses.map((a, i) => (
          <line
            // biome-ignore lint/suspicious/noArrayIndexKey: analyses have no identity but their order
            key={i}
            className={css.one}
            x1={at(a.C ?? 0)}
            x2={at(a.C ?? 0)}
            y1={12}
            y2={26}
          />
        ))}
        {[0, 0.4, 0.8, 1.2, 1.6].map((t) => (
          <text key={t} className={css.tick} x={at(t)} y={44} textAnchor="middle">
            {t.toFixed(1)}
          </text>
        ))}
        <text className={css.tick} x={WIDE} y={9} textAnchor="end">
          % carbon
        </text>
      </svg>
      <ul className={css.grades}>
        {known.grades.map((g) => (
          <li key={g.grade}>
            <b>{g.grade}</b>
            <span className="soft">{g.standard}</span>
            <span className={css.share} aria-hidden="true">
              <i style={{ width: `${Math.round(100 * g.share)}%` }} />
            </span>
            <span className="num">{percentOf(g.share)}</span>
          </li>
        ))}
      </ul>
      {(known.too_little >= 0.02 || known.in_air >= 0.02) && (
        <p className="soft">
          {[
            known.too_little >= 0.02 &&
              `Too little carbon for an edge: ${percentOf(known.too_little)}.`,
            known.in_air >= 0.02 && `Hardens in air: ${percentOf(known.in_air)}.`,
          ]
            .filter(Boolean)
            .join(" ")}
        </p>
      )}
    </section>
  );
}
