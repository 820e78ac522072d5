import type { FindingRow, Reading } from "../api/client";
import type { Frame } from "../drawing/blade-drawing";
import { type Outline, readingHeight } from "../drawing/blade-drawing";
import { TEMPER_CHIPS } from "../drawing/temper-chips";
import { hrc } from "../words/names";
import type { Place } from "./places";
import css from "./readings.module.css";

/** A temper colour as findings have it: in words. */
const chip = (colour: string) =>
  TEMPER_CHIPS[colour.replace(" ", "_") as keyof typeof TEMPER_CHIPS] ?? "none";

interface Labelled {
  key: string;
  x: number;
  y: number;
  text: string;
  className: string;
}

/** Labels moved up, one above the other, until none covers another. */
export function spread(labels: Labelled[]): Labelled[] {
  const placed: Labelled[] = [];
  for (const label of [...labels].sort((a, b) => a.x - b.x || b.y - a.y)) {
    let y = label.y;
    const hits = () =>
      placed.some(
        (p) => Math.abs(p.x - label.x) < 17 + 3 * label.text.length && Math.abs(p.y - y) < 14,
      );
    while (hits()) y -= 14;
    placed.push({ ...label, y });
  }
  return placed;
}

/** What was read and found, where it was. */
export function Marks(props: {
  frame: Frame;
  outline: Outline;
  readings: Reading[];
  findings: FindingRow[];
  pending: Place[];
  /** The pending places are told from the edge up. */
  above?: boolean;
}) {
  const { frame, readings, findings, above } = props;
  const pending = props.pending.map(([x, y]): [number, number] => {
    // Where no height was said it is where hardness is read.
    if (y === null) return [x, readingHeight(props.outline, x)];
    return [x, above ? y + (frame.heights(x)?.[0] ?? 0) : y];
  });
  const values = readings
    .filter((r) => !r.withdrawn_at)
    .flatMap((r) =>
      (r.taken.places ?? []).flatMap((place, i) => {
        const [x, y] = place ?? [];
        if (x === undefined || y === undefined) return [];
        const not = r.not_counted[i];
        return [
          {
            key: `${r.id} ${i}`,
            x: frame.x(x),
            y: frame.y(y) + 4,
            text: `${hrc(r.values_hrc[i] ?? 0)}${r.outlier === i ? " ?" : ""}`,
            className: `mark-hrc num${not ? " not" : ""}${r.outlier === i ? " odd" : ""}`,
          },
        ];
      }),
    );
  const found = findings.filter((f) => !f.withdrawn_at);
  return (
    <g className={css.marks}>
      {found.map(({ id, found: f }) => {
        if (f.kind === "line") {
          const points = f.places
            .map(([x = 0, h = 0]) => {
              const edge = frame.heights(x)?.[0] ?? 0;
              return `${frame.x(x).toFixed(1)},${frame.y(edge + h).toFixed(1)}`;
            })
            .join(" ");
          return <polyline key={id} className={css["mark-line"]} points={points} />;
        }
        if (f.kind === "burn" && f.place) {
          const [x = 0, y = 0] = f.place;
          return (
            <circle
              key={id}
              className={css["mark-burn"]}
              cx={frame.x(x)}
              cy={frame.y(y)}
              r={9}
              fill={chip(f.colour)}
            />
          );
        }
        if (f.kind === "crack" && f.cracked && f.place) {
          const [x = 0, y = 0] = f.place;
          const [left, top] = [frame.x(x), frame.y(y)];
          return (
            <path
              key={id}
              className={css["mark-crack"]}
              d={`M${left - 4} ${top - 10}l5 6l-4 4l6 6l-3 5`}
            >
              <title>A crack</title>
            </path>
          );
        }
        return null;
      })}
      {spread(values).map((v) => (
        <text key={v.key} x={v.x} y={v.y} textAnchor="middle" className={v.className}>
          {v.text}
        </text>
      ))}
      {pending.map((p, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a place has no identity but its order
        <g key={`${p[0]} ${p[1]} ${i}`} className={css["mark-pending"]}>
          <circle cx={frame.x(p[0])} cy={frame.y(p[1])} r={9} />
          <text x={frame.x(p[0])} y={frame.y(p[1]) + 4} textAnchor="middle">
            {i + 1}
          </text>
        </g>
      ))}
    </g>
  );
}
