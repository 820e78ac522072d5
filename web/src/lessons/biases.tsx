import type { Bias, OutcomeLesson } from "../api/client";
import { useUnits } from "../quantity/units";
import { between, biased, isHeat, SHARES, worth } from "./words";

const WIDTH = 150;

/** Where nothing, the middle and the interval lie. */
function Bar({ bias, most }: { bias: Bias; most: number }) {
  const x = (v: number) =>
    WIDTH / 2 + (Math.min(most, Math.max(-most, v)) / most) * (WIDTH / 2 - 6);
  const { by, give_or_take } = bias;
  return (
    <svg width={WIDTH} height={16} className="bias-bar" aria-hidden="true">
      <line className="zero" x1={WIDTH / 2} x2={WIDTH / 2} y1="1" y2="15" />
      <line className="width" x1={x(by - give_or_take)} x2={x(by + give_or_take)} y1="8" y2="8" />
      <path className={bias.sure ? "sure" : ""} d={`M${x(by)} 3l5 5-5 5-5-5z`} />
    </svg>
  );
}

/** Whose doing it is: what the steels, fires, tanks, hands and testers were found to do, each beside the others. */
export function Biases({ of }: { of: OutcomeLesson }) {
  const units = useUnits();
  const sureFirst = (a: Bias, b: Bias) => Number(b.sure) - Number(a.sure);
  const rest = of.biases.filter((b) => !worth(b)).length;
  const groups = SHARES.map(([share, title]) => ({
    title,
    own: of.biases.filter((b) => b.share.of === share && worth(b)).sort(sureFirst),
  })).filter((g) => g.own.length > 0);
  const reach = (heat: boolean) =>
    Math.max(
      ...of.biases
        .filter((b) => isHeat(b) === heat && worth(b))
        .map((b) => Math.abs(b.by) + b.give_or_take),
      1e-6,
    );
  return (
    <section className="biases" aria-labelledby="whose">
      <h2 id="whose">Whose doing</h2>
      <p className="soft">
        What each adds beside all the others. Full and in words: nine times in ten it is no chance.
        Hollow: not told from chance yet.
      </p>
      <table>
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
              <tr key={b.name} className={b.sure ? "sure" : ""}>
                <th scope="rowgroup">{i === 0 ? title : ""}</th>
                <th scope="row">{b.name}</th>
                <td>
                  <Bar bias={b} most={reach(isHeat(b))} />
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
      </table>
      {rest > 0 && (
        <p className="soft">
          {rest === 1 ? "One more has" : `${rest} more have`} fewer than three results.
        </p>
      )}
    </section>
  );
}
