import { scaleLinear } from "d3-scale";
import type { LadderRung, LadderView } from "../api/client";
import { hrc } from "../words/names";
import { middle } from "./ladder-draft";
import css from "./steels.module.css";

const HEIGHT = 34;

/** The softest and the hardest that a ladder shows, HRC. */
export function range(ladder: LadderView): [number, number] {
  const all = ladder.rungs.flatMap((r, i) => {
    const said = ladder.expected[i];
    return [...(r.values_hrc ?? []), said?.hrc.low ?? 60, said?.hrc.high ?? 62];
  });
  return [Math.floor(Math.min(...all) - 1), Math.ceil(Math.max(...all) + 1)];
}

/** One rung on the scale of hardness: what is expected as a bar, physics as a tick, what was read as a diamond. */
export function RungStrip(props: {
  rung: LadderRung;
  expected: LadderView["expected"][number] | undefined;
  range: [number, number];
  width: number;
  /** Numbers of the scale below it. */
  scale: boolean;
}) {
  const { rung, expected, width } = props;
  const x = scaleLinear(props.range, [10, width - 10]);
  const read = middle(rung);
  const y = HEIGHT / 2;
  const told = expected
    ? `Expected ${hrc(expected.hrc.low)} to ${hrc(expected.hrc.high)} HRC${read === null ? ", not read yet" : `, read ${hrc(read)}`}`
    : "Not computed";
  return (
    <svg
      className={`${css.strip} ${props.scale ? css.scaled : ""}`}
      width={width}
      height={props.scale ? HEIGHT + 16 : HEIGHT}
      role="img"
      aria-label={told}
    >
      {x.ticks(5).map((t) => (
        <g key={t}>
          <line x1={x(t)} x2={x(t)} y1="0" y2={HEIGHT} />
          {props.scale && (
            <text x={x(t)} y={HEIGHT + 12} textAnchor="middle">
              {t}
            </text>
          )}
        </g>
      ))}
      {expected && (
        <>
          <rect
            x={x(expected.hrc.low)}
            width={Math.max(2, x(expected.hrc.high) - x(expected.hrc.low))}
            y={y - 5}
            height="10"
          />
          <path d={`M${x(expected.physics_hrc)} ${y - 9}v18`} className={css.physics} />
        </>
      )}
      {rung.skated_hrc != null && rung.bit_hrc != null && (
        <path
          className={css.bracket}
          d={`M${x(rung.skated_hrc)} ${y - 6}v12M${x(rung.skated_hrc)} ${y}H${x(rung.bit_hrc)}M${x(rung.bit_hrc)} ${y - 6}v12`}
        />
      )}
      {read !== null && <path className={css.read} d={`M${x(read)} ${y - 7}l7 7l-7 7l-7 -7z`} />}
    </svg>
  );
}
