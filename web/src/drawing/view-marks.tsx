import { useMemo } from "react";
import type { Blade, Maps } from "../api/client";
import { useUnits } from "../quantity/units";
import type { Frame, Outline } from "./blade-drawing";
import css from "./drawing.module.css";
import { bent, cellAt, type Piece } from "./maps";

export const short = (seconds: number) =>
  seconds < 10 ? `${seconds.toFixed(1)} s` : `${Math.round(seconds)} s`;

/** Cells of the blade in their colours. */
export function Cells({ frame, maps, all }: { frame: Frame; maps: Maps; all: Piece[] }) {
  const wide = maps.step_mm * frame.scale + 0.6;
  return (
    <g>
      {all.map((p) => (
        <rect
          key={`${p.x} ${p.low}`}
          x={frame.x(p.x)}
          y={frame.y(p.high)}
          width={wide}
          height={(p.high - p.low) * frame.scale + 0.6}
          fill={p.colour}
        />
      ))}
    </g>
  );
}

/** Places of a line on the drawing: its height, and the ends of where it lies nine times out of ten. */
function along(frame: Frame, maps: Maps) {
  const points = "points" in maps.hamon ? maps.hamon.points : [];
  return points.map((p) => {
    const edge = frame.heights(p.x_mm)?.[0] ?? 0;
    const at = (mm: number) => `${frame.x(p.x_mm).toFixed(1)},${frame.y(edge + mm).toFixed(1)}`;
    return { ...p, edge, at: at(p.height_mm), low: at(p.low_mm), high: at(p.high_mm) };
  });
}

/** Where the line lies nine times out of ten. */
export function Doubt({ frame, maps }: { frame: Frame; maps: Maps }) {
  const points = along(frame, maps);
  const ring = [...points.map((p) => p.low), ...points.map((p) => p.high).reverse()];
  return <polygon className={css.doubt} points={ring.join(" ")} />;
}

/** The line from hard to soft, with its height at three places. */
export function LineOf({ frame, maps, blade }: { frame: Frame; maps: Maps; blade: Blade }) {
  const { about } = useUnits();
  const points = along(frame, maps);
  const nearest = (x: number) =>
    [...points].sort((a, b) => Math.abs(a.x_mm - x) - Math.abs(b.x_mm - x))[0];
  return (
    <g className={css.hamon}>
      <polyline points={points.map((p) => p.at).join(" ")} />
      {[0.2, 0.5, 0.8].map((share) => {
        const p = nearest(share * blade.length_mm);
        return (
          p && (
            <text
              key={share}
              className="note"
              x={frame.x(p.x_mm)}
              y={frame.y(p.edge + p.height_mm) - 5}
              textAnchor="middle"
            >
              {about(p.height_mm)}
            </text>
          )
        );
      })}
    </g>
  );
}

/** Where a crack would start. */
export function CrackMark({ frame, maps }: { frame: Frame; maps: Maps }) {
  const at = maps.crack_at_mm;
  if (!at) return null;
  const [x = 0, above = 0] = at;
  const edge = frame.heights(x)?.[0] ?? 0;
  const [px, py] = [frame.x(x), frame.y(edge + above)];
  // Towards the tip there is no room to the right.
  const past = x > 0.5 * maps.columns.length * maps.step_mm + maps.x0_mm;
  return (
    <g className={css["crack-mark"]}>
      <path
        d={`M${px - 5} ${py - 7}L${px + 2} ${py - 2}L${px - 2} ${py + 2}L${px + 5} ${py + 7}`}
      />
      <text
        className="note"
        x={past ? px - 9 : px + 9}
        y={py + 3}
        textAnchor={past ? "end" : "start"}
      >
        a crack would start here
      </text>
    </g>
  );
}

/** The blade as it will have bent, drawn larger than life beside the straight one. */
export function Curved({ frame, maps, outline }: { frame: Frame; maps: Maps; outline: Outline }) {
  const curve = useMemo(() => bent(maps.curvature), [maps]);
  const most = Math.max(...curve.map((c) => Math.abs(c[1])), 1e-6);
  const times = Math.min(20, Math.max(1, Math.round(5 / most)));
  const off = (x: number) => {
    const i = curve.findIndex((c) => c[0] >= x);
    const [b, a] = [curve[i], curve[i - 1]];
    if (!b) return (curve.at(-1)?.[1] ?? 0) * times;
    if (!a) return b[1] * times;
    return (a[1] + ((b[1] - a[1]) * (x - a[0])) / (b[0] - a[0])) * times;
  };
  const d = outline
    .map(
      ([x = 0, y = 0], i) =>
        `${i === 0 ? "M" : "L"}${frame.x(x).toFixed(1)} ${frame.y(y + off(x)).toFixed(1)}`,
    )
    .join("");
  return (
    <g className={css.bent}>
      <path d={`${d}Z`} />
      <text className="note" x={frame.x(4)} y={14}>
        drawn {times} times as bent
      </text>
    </g>
  );
}

/** A few hardnesses in words and numbers: for the eye and for the ear. */
export function spots(
  maps: Maps,
  frame: Frame,
  length: number,
): { x: number; y: number; hrc: number }[] {
  return [0.15, 0.5, 0.82].flatMap((along) =>
    [0.12, 0.5, 0.88].flatMap((up) => {
      const x = along * length;
      const h = frame.heights(x);
      // Where the blade is too narrow for three, the middle one stands for all.
      if (!h || (up !== 0.5 && (h[1] - h[0]) * frame.scale < 44)) return [];
      const y = h[0] + up * (h[1] - h[0]);
      const cell = cellAt(maps, x, y);
      if (cell === undefined) return [];
      return [{ x, y, hrc: (maps.hardness_tenths[cell] ?? 0) / 10 }];
    }),
  );
}
