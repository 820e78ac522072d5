import { Table } from "react-bootstrap";
import type { Bias, OutcomeLesson } from "../api/client";
import { useUnits } from "../quantity/units";
import css from "./lessons.module.css";
import { between, biased, grouped, isHeat, nameOf, worth } from "./words";

const WIDTH = 150;

/** Where nothing, the interval and what was found lie, px. */
export function Bar(props: {
  width: number;
  zero: number;
  low: number;
  high: number;
  at: number;
  full: boolean;
}) {
  const { width, zero, low, high, at, full } = props;
  return (
    <svg width={width} height={16} className={css["bias-bar"]} aria-hidden="true">
      <line className={css.zero} x1={zero} x2={zero} y1="1" y2="15" />
      <line className={css.width} x1={low} x2={high} y1="8" y2="8" />
      <path className={full ? css.sure : ""} d={`M${at} 3l5 5-5 5-5-5z`} />
    </svg>
  );
}

/** Whose doing it is: what the steels, fires, tanks, hands and testers were found to do, each beside the others. */
export function Biases({ of }: { of: OutcomeLesson }) {
  const units = useUnits();
  const sureFirst = (a: Bias, b: Bias) => Number(b.sure) - Number(a.sure);
  const rest = of.biases.filter((b) => !worth(b)).length;
  const groups = grouped(of.biases.filter(worth).sort(sureFirst));
  const reach = (heat: boolean) => {
    const own = of.biases.filter((b) => isHeat(b) === heat && worth(b));
    return Math.max(...own.map((b) => Math.abs(b.by) + b.give_or_take), 1e-6);
  };
  // Degrees and the outcome have a scale each.
  const [heats, others] = [reach(true), reach(false)];
  const place = (b: Bias, v: number) =>
    WIDTH / 2 + (v / (isHeat(b) ? heats : others)) * (WIDTH / 2 - 6);
  return (
    <section className={css.biases} aria-labelledby="whose">
      <h2 id="whose">Whose doing</h2>
      <p className="soft">
        What each adds beside all the others. Full and in words: nine times in ten it is no chance.
        Hollow: not told from chance yet.
      </p>
      <Table>
        <thead className="visually-hidden">
          <tr>
            <th scope="col">Kind</th>
            <th scope="col">Name</th>
            <td />
            <th scope="col">Adds, nine times in ten between</th>
            <th scope="col">Results</th>
          </tr>
        </thead>
        {groups.map(({ title, own }) => (
          <tbody key={title}>
            {own.map((b, i) => (
              <tr key={nameOf(b)} className={b.sure ? css.sure : ""}>
                <th scope="rowgroup">{i === 0 ? title : ""}</th>
                <th scope="row">{nameOf(b)}</th>
                <td>
                  <Bar
                    width={WIDTH}
                    zero={WIDTH / 2}
                    low={place(b, b.by - b.give_or_take)}
                    high={place(b, b.by + b.give_or_take)}
                    at={place(b, b.by)}
                    full={b.sure}
                  />
                </td>
                <td>
                  {b.sure && <>{biased(of, b, units)} </>}
                  <span className="soft num">{between(of, b, units)}</span>
                </td>
                <td className="soft num">{b.results}</td>
              </tr>
            ))}
          </tbody>
        ))}
      </Table>
      {rest > 0 && (
        <p className="soft">
          {rest === 1 ? "One more has" : `${rest} more have`} fewer than three results.
        </p>
      )}
    </section>
  );
}
