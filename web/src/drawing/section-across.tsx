import type { Maps } from "../api/client";
import { useUnits } from "../quantity/units";
import css from "./drawing.module.css";
import { type Across, sectionAt } from "./maps";

/** Hard to the middle as far as a hundredth: cells come in whole ones. */
const THROUGH_MM = 0.02;
/** Room it takes. */
const WIDE_PX = 250;
const HIGH_PX = 44;

const through = (c: Across) => c.deep >= c.half - THROUGH_MM;
const soft = (c: Across) => c.deep < THROUGH_MM;

/** How deep a section is hardened, in words. */
export function depthInWords(cells: Across[], about: (mm: number) => string): string {
  const edge = cells[0];
  const spine = cells.at(-1);
  if (!edge || !spine || cells.every(soft)) return "soft from edge to spine";
  if (cells.every(through)) return "hard to the middle from edge to spine";
  const first = cells.findIndex((c) => !through(c));
  const whole =
    first > 0 ? `hard to the middle ${about((cells[first] as Across).low - edge.low)} up` : "";
  const back = soft(spine)
    ? "soft at the spine"
    : `at the spine ${about(spine.deep)} from each face`;
  const deepest = Math.max(...cells.map((c) => c.deep));
  return [whole || `at the edge ${about(edge.deep || deepest)} from each face`, back].join(", ");
}

/** A section across the blade lying on its side, edge to the left, thicker than life: what is hard is dark. */
export function SectionAcross({ maps, x }: { maps: Maps; x: number }) {
  const { about } = useUnits();
  const section = sectionAt(maps, x);
  const { cells } = section;
  const [edge, spine] = [cells[0], cells.at(-1)];
  if (!edge || !spine) return null;
  const thickest = Math.max(...cells.map((c) => c.half));
  const scale = WIDE_PX / (spine.high - edge.low);
  const times = Math.max(1, Math.min(4, Math.floor(HIGH_PX / (2 * thickest * scale))));
  const middle = thickest * scale * times + 2;
  const px = (c: Across) => 2 + (0.5 * (c.low + c.high) - edge.low) * scale;
  const ends = (of: (c: Across) => number) => {
    const at = cells.map((c) => [px(c), of(c)] as const);
    return [[2, of(edge)] as const, ...at, [2 + WIDE_PX, of(spine)] as const];
  };
  const ring = (of: (c: Across) => number) => {
    const up = ends(of).map(
      ([at, mm]) => `${at.toFixed(1)},${(middle - mm * scale * times).toFixed(1)}`,
    );
    const down = ends(of).map(
      ([at, mm]) => `${at.toFixed(1)},${(middle + mm * scale * times).toFixed(1)}`,
    );
    return [...up, ...down.reverse()].join(" ");
  };
  return (
    <figure className={css.across}>
      <svg width={WIDE_PX + 4} height={2 * middle} aria-hidden="true">
        <polygon className={css["across-hard"]} points={ring((c) => c.half)} />
        <polygon className={css["across-soft"]} points={ring((c) => c.half - c.deep)} />
        <polygon className={css["across-rim"]} points={ring((c) => c.half)} />
      </svg>
      <figcaption className="soft">
        Across, {about(section.x)} from the heel: {depthInWords(cells, about)}.
        {times > 1 && ` Drawn ${times} times as thick.`}
      </figcaption>
    </figure>
  );
}
