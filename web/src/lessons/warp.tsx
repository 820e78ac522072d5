import { Table } from "react-bootstrap";
import type { LessonsView } from "../api/client";
import { percent } from "../words/quantities";
import { DRIVERS } from "../words/warp";
import { Bar } from "./biases";
import css from "./lessons.module.css";

type Scale = LessonsView["warp"][number];

/** A factor between a quarter and four times, on a strip. */
const x = (times: number) => {
  const ln = Math.log(Math.min(4, Math.max(0.25, times))) / Math.log(4);
  return 100 + 94 * ln;
};

const sure = (s: Scale) => s.low > 1 || s.high < 1;

/** Of whom a cause is worth a line: the shop always, others where they stand out. */
export const told = (all: Scale[]) =>
  all.filter((s) => s.share.of === "shop" || Math.abs(Math.log(s.times)) > 0.1);

/** What was promised of a group of blades, and what came, in a sentence. */
export function kept(p: LessonsView["warp_promises"][number]): string {
  const came = Math.round(p.came * p.blades);
  const blades = p.blades === 1 ? "One blade was" : `${p.blades} blades were`;
  const out = came === 0 ? "none came out of line" : `${came} came out of line`;
  return `${blades} given ${percent(p.promised)} to warp: ${out}.`;
}

/** What bends blades sideways here, cause by cause, and whether the chances were kept. */
export function Warp({ lessons }: { lessons: LessonsView }) {
  const scales = told(lessons.warp);
  if (lessons.warp_promises.length === 0) return null;
  return (
    <section className={css.biases} aria-label="What bends them">
      <h2>What bends them, against a shop without records</h2>
      <Table>
        <tbody>
          {scales.map((s) => (
            <tr key={`${s.driver} ${s.name}`} className={sure(s) ? css.sure : ""}>
              <th scope="row">
                {DRIVERS[s.driver]}
                {s.name && `, ${s.name}`}
              </th>
              <td>
                <Bar
                  width={200}
                  zero={100}
                  low={x(s.low)}
                  high={x(s.high)}
                  at={x(s.times)}
                  full={sure(s)}
                />
              </td>
              <td className="num">× {s.times.toFixed(1)}</td>
            </tr>
          ))}
        </tbody>
      </Table>
      <h2>Promised, and what came</h2>
      <ul className="sentences">
        {lessons.warp_promises.map((p) => (
          <li key={p.promised}>{kept(p)}</li>
        ))}
      </ul>
    </section>
  );
}
