import css from "./steels.module.css";
/** Grades of a broken coupon, finest first, in words. */
export const GRAINS = ["silk", "fine velvet", "fine sand", "coarse sand", "sugar"] as const;

/** Corners to an edge of the drawn piece, by grade: the coarser the fewer. */
const CELLS = [26, 17, 11, 7, 4];

/** A number between 0 and 1 that is always the same for a place. */
function noise(i: number, j: number, k: number): number {
  const s = Math.sin(i * 127.1 + j * 311.7 + k * 74.7) * 43758.5453;
  return s - Math.floor(s);
}

/** Our own reference drawing of a fracture: facets of the size of the grain. */
export function Fracture({ grade, size = 96 }: { grade: number; size?: number }) {
  const n = CELLS[grade - 1] ?? 11;
  const step = size / n;
  const rough = 0.25 + 0.09 * grade;
  const corner = (i: number, j: number): [number, number] => {
    const border = i === 0 || j === 0 || i === n || j === n;
    const off = border ? 0 : rough;
    return [
      (i + off * (noise(i, j, 1) - 0.5) * 1.6) * step,
      (j + off * (noise(i, j, 2) - 0.5) * 1.6) * step,
    ];
  };
  const facets = [];
  for (let i = 0; i < n; i++) {
    for (let j = 0; j < n; j++) {
      // Coarse facets glint: the contrast grows with the grade.
      const light = 0.62 + (noise(i, j, 3) - 0.5) * (0.06 + 0.13 * grade);
      const grey = Math.round(255 * Math.min(0.97, Math.max(0.15, light)));
      const points = [corner(i, j), corner(i + 1, j), corner(i + 1, j + 1), corner(i, j + 1)];
      facets.push(
        <polygon
          key={`${i} ${j}`}
          points={points.map((p) => p.map((v) => v.toFixed(1)).join(",")).join(" ")}
          fill={`rgb(${grey},${grey},${Math.min(255, grey + 4)})`}
        />,
      );
    }
  }
  return (
    <svg width={size} height={size} className={css.fracture} aria-hidden="true">
      {facets}
    </svg>
  );
}
