import type { Clay, ClayFace } from "../api/client";
import { type Frame, heights, type Outline } from "./blade-drawing";

/** Clay as it looks on the bench: the thicker the darker. Earth, not heat. */
const CLAYS: [number, string][] = [
  [0.05, "#c3c8c4"],
  [0.8, "#d3b48c"],
  [1.6, "#bf9767"],
  [2.6, "#a37b4c"],
  [3.8, "#82603a"],
  [5.5, "#62472b"],
];

export const clayColour = (mm: number) => CLAYS.find(([t]) => mm < t)?.[1] ?? "#46321e";

/** Thicknesses of the legend, mm. */
export const CLAY_KEY = [0.5, 1.2, 2, 3, 4.5, 6];

const BARE: ClayFace = { strokes: [] };

/** The two faces of a clay: the right is as the left when it is not given. */
export function faceOf(clay: Clay, right: boolean): ClayFace {
  return (right ? (clay.right ?? clay.left) : clay.left) ?? BARE;
}

/** A face in the order it was laid on: cells, band, strokes. Later lies over earlier. */
export function ClayLayer(props: { face: ClayFace; frame: Frame; outline: Outline; id: string }) {
  const { face, frame, outline, id } = props;
  const grid = face.grid;
  const xs = outline.map((p) => p[0] ?? 0);
  const [start, tip] = [Math.min(...xs), Math.max(...xs)];
  const band = face.band;
  const bandPath = () => {
    if (!band) return "";
    const lower: string[] = [];
    for (let x = start; x <= tip; x += 1.5) {
      const h = heights(outline, x);
      if (h) lower.push(`${frame.x(x).toFixed(1)} ${frame.y(h[0] + band.from_edge_mm).toFixed(1)}`);
    }
    return `M${lower.join("L")}L${frame.x(tip).toFixed(1)} 0L${frame.x(start).toFixed(1)} 0Z`;
  };
  return (
    <g className="clay-layer">
      {grid?.thickness_mm.map((column, i) => {
        const cells: { from: number; to: number; t: number }[] = [];
        column.forEach((t, j) => {
          const open = cells.at(-1);
          if (open && Math.abs(open.t - t) < 0.01) open.to = j + 1;
          else cells.push({ from: j, to: j + 1, t });
        });
        const left = grid.x0_mm + i * grid.step_mm;
        return cells
          .filter((c) => c.t > 0)
          .map((c) => (
            <rect
              key={`${left} ${c.from}`}
              x={frame.x(left)}
              y={frame.y(grid.y0_mm + c.to * grid.step_mm)}
              width={grid.step_mm * frame.scale + 0.5}
              height={(c.to - c.from) * grid.step_mm * frame.scale + 0.5}
              fill={clayColour(c.t)}
            />
          ));
      })}
      {band && <path d={bandPath()} fill={clayColour(band.thickness_mm)} />}
      {(face.strokes ?? []).map((s, i) => {
        const at = s.points.map(
          ([x = 0, y = 0]) => `${frame.x(x).toFixed(1)} ${frame.y(y).toFixed(1)}`,
        );
        // One point is a dab of the brush.
        const d = at.length === 1 ? `M${at[0]}l0.01 0` : `M${at.join("L")}`;
        return (
          <path
            // biome-ignore lint/suspicious/noArrayIndexKey: strokes have no identity but their order
            key={`${id} ${i}`}
            d={d}
            fill="none"
            stroke={clayColour(s.thickness_mm)}
            strokeWidth={s.width_mm * frame.scale}
            strokeLinecap="round"
            strokeLinejoin="round"
          />
        );
      })}
    </g>
  );
}
