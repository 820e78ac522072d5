import { type ReactNode, useId } from "react";
import { useUnits } from "../quantity/units";
import css from "./drawing.module.css";
import { useWidth } from "./heat-path";

export type Outline = number[][];

function bounds(outline: Outline) {
  const xs = outline.map((p) => p[0] ?? 0);
  const ys = outline.map((p) => p[1] ?? 0);
  return { x0: Math.min(...xs), x1: Math.max(...xs), y0: Math.min(...ys), y1: Math.max(...ys) };
}

export function pathOf(outline: Outline, x: (mm: number) => number, y: (mm: number) => number) {
  return `${outline
    .map((p, i) => `${i === 0 ? "M" : "L"}${x(p[0] ?? 0).toFixed(1)} ${y(p[1] ?? 0).toFixed(1)}`)
    .join("")}Z`;
}

/** A blade as a silhouette at a given scale, tip to the right, edge down. */
export function Silhouette({
  outline,
  scale,
  loud,
}: {
  outline: Outline;
  scale: number;
  loud?: boolean;
}) {
  const b = bounds(outline);
  const width = (b.x1 - b.x0) * scale;
  const height = Math.max(6, (b.y1 - b.y0) * scale);
  return (
    <svg
      className={`${css.silhouette}${loud ? " loud" : ""}`}
      width={width}
      height={height}
      aria-hidden="true"
    >
      <path
        d={pathOf(
          outline,
          (mm) => (mm - b.x0) * scale,
          (mm) => (b.y1 - mm) * scale,
        )}
      />
    </svg>
  );
}

/** Edge and spine height of an outline at x, mm; null where there is no blade. */
export function heights(outline: Outline, at: number): [number, number] | null {
  const ys: number[] = [];
  for (let i = 0; i < outline.length; i++) {
    const [ax = 0, ay = 0] = outline[i] ?? [];
    const [bx = 0, by = 0] = outline[(i + 1) % outline.length] ?? [];
    if (ax !== bx && (ax - at) * (bx - at) <= 0) ys.push(ay + ((by - ay) * (at - ax)) / (bx - ax));
  }
  return ys.length < 2 ? null : [Math.min(...ys), Math.max(...ys)];
}

/** A quarter of the way from edge to spine: where hardness is read. */
export const READ_AT = 0.25;

/** How far along the blade its notes stand and a section is shown, of its length. */
export const READ_ALONG = 0.45;

/** How high hardness is read at x, mm; 0 where there is no blade. */
export function readingHeight(outline: Outline, at: number): number {
  const h = heights(outline, at);
  return h ? h[0] + READ_AT * (h[1] - h[0]) : 0;
}

/** From mm to places on the drawing. */
export interface Frame {
  x: (mm: number) => number;
  y: (mm: number) => number;
  /** Pixels for a millimetre. */
  scale: number;
  /** Edge and spine at x, mm. */
  heights: (at: number) => [number, number] | null;
}

interface Props {
  outline: Outline;
  /** Length of the blade, heel to tip, mm. */
  length: number;
  width: number;
  spine: number;
  edge: number;
  height: number;
  /** Spine and edge in words, where they change along the blade. */
  notes?: [string, string];
  /** Without the shading by thickness and its notes. */
  plain?: boolean;
  /** Drawn inside the blade. */
  under?: (frame: Frame) => ReactNode;
  /** Drawn over it. */
  over?: (frame: Frame) => ReactNode;
  /** Where the pointer is, mm. */
  onPoint?: (at: [number, number] | null) => void;
  /** A place was touched or clicked, mm. */
  onPick?: (at: [number, number]) => void;
  /** Drawn on with pen, finger or mouse: down, along, up, mm. */
  onStroke?: (what: "down" | "move" | "up", at: [number, number]) => void;
}

/** The blade to scale, shaded by thickness, with a ruler and the place where hardness is read. */
export function BladeDrawing(props: Props) {
  const { outline, length, width, spine, edge, plain, under, over, onPoint, onPick, onStroke } =
    props;
  const [ref, wide] = useWidth<HTMLDivElement>(660);
  const { units, show } = useUnits();
  const id = useId();
  const b = bounds(outline);
  // Ruler and notes.
  const spare = plain ? 62 : 76;
  const scale = Math.min((wide - 24) / (b.x1 - b.x0), (props.height - spare) / (b.y1 - b.y0));
  // A long slim blade needs less than the room it may take.
  const height = Math.ceil(Math.min(props.height, (b.y1 - b.y0) * scale + spare));
  const x = (mm: number) => 12 + (mm - b.x0) * scale;
  const y = (mm: number) => 22 + (b.y1 - mm) * scale;
  const placeOf = (e: React.PointerEvent<SVGSVGElement>): [number, number] => {
    const box = e.currentTarget.getBoundingClientRect();
    const [px, py] = [e.clientX - box.left, e.clientY - box.top];
    return [(px - 12) / scale + b.x0, b.y1 - (py - 22) / scale];
  };
  const frame: Frame = { x, y, scale, heights: (at) => heights(outline, at) };
  const inch = units.length === "in";
  const step = inch ? 25.4 / 4 : 10;
  const big = inch ? 4 : 5;
  const count = Math.floor(length / step);
  const floor = y(b.y0) + 12;
  const readAt = (mm: number) => {
    const h = heights(outline, mm);
    return h ? y(h[0] + READ_AT * (h[1] - h[0])) : y(width * READ_AT);
  };
  const reads = Array.from({ length: 41 }, (_, i) => (length * (i + 0.5)) / 41);
  const read = readAt(length * READ_ALONG);
  const top = heights(outline, length * READ_ALONG);
  return (
    <div ref={ref} className={css["blade-drawing"]}>
      <svg
        width={wide}
        height={height}
        role="img"
        aria-label={`Blade ${show("length", length)} long, ${show("length", width)} wide, spine ${show("length", spine)}, edge ${show("length", edge)}`}
        className={onStroke ? css["drawn-on"] : undefined}
        onPointerDown={(e) => {
          onPick?.(placeOf(e));
          if (!onStroke || e.button !== 0) return;
          e.currentTarget.setPointerCapture?.(e.pointerId);
          onStroke("down", placeOf(e));
        }}
        onPointerUp={(e) => onStroke?.("up", placeOf(e))}
        onPointerMove={(e) => {
          onPoint?.(placeOf(e));
          onStroke?.("move", placeOf(e));
        }}
        onPointerLeave={() => onPoint?.(null)}
      >
        <defs>
          <linearGradient id={`${id}-t`} x1="0" x2="0" y1="0" y2="1">
            <stop offset="0" stopColor="#7f8886" />
            <stop offset=".6" stopColor="#a9afac" />
            <stop offset="1" stopColor="#e4e6e2" />
          </linearGradient>
          <clipPath id={`${id}-c`}>
            <path d={pathOf(outline, x, y)} />
          </clipPath>
        </defs>
        <path
          d={pathOf(outline, x, y)}
          fill={plain ? "none" : `url(#${id}-t)`}
          className={plain && !under ? `${css.steel} ${css.dashed}` : css.steel}
        />
        {under && (
          <>
            <g clipPath={`url(#${id}-c)`}>{under(frame)}</g>
            <path d={pathOf(outline, x, y)} fill="none" className={css.steel} />
          </>
        )}
        {!plain && (
          <>
            <g clipPath={`url(#${id}-c)`}>
              <polyline
                className={css["reading-line"]}
                points={reads.map((mm) => `${x(mm).toFixed(1)},${readAt(mm).toFixed(1)}`).join(" ")}
              />
            </g>
            <text className="note" x={x(length * READ_ALONG)} y={read - 5}>
              hardness is read here
            </text>
            <text className="note" x={x(length * READ_ALONG)} y={y(top?.[1] ?? b.y1) - 7}>
              spine {props.notes?.[0] ?? show("length", spine)}
            </text>
            <text className="note" x={x(length * 0.02)} y={floor + 34}>
              edge {props.notes?.[1] ?? show("length", edge)}
            </text>
          </>
        )}
        {over?.(frame)}
        <g className={css.ruler}>
          <line x1={x(0)} x2={x(length)} y1={floor} y2={floor} />
          {Array.from({ length: count + 1 }, (_, i) => i).map((i) => (
            <g key={i}>
              <line x1={x(i * step)} x2={x(i * step)} y1={floor} y2={floor + (i % big ? 5 : 10)} />
              {i % big === 0 && x(i * step) < wide - 40 && (
                <text x={x(i * step) + 3} y={floor + 15}>
                  {inch ? i / 4 : i * 10}
                  {i === 0 ? (inch ? " in" : " mm") : ""}
                </text>
              )}
            </g>
          ))}
        </g>
      </svg>
    </div>
  );
}
