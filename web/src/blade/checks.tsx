import { Table } from "react-bootstrap";
import type { Blade, Checked, Plan, Prediction, Ready } from "../api/client";
import { usePrediction } from "../prediction/prediction";
import { useUnits } from "../quantity/units";
import { CHECK_QUESTIONS, cost } from "../words/checks";
import css from "./blade.module.css";

const MARKS = { good: "✓", open: "○", bad: "✗" } as const;
const WORDS = { good: "good", open: "not looked at", bad: "not yet" } as const;

interface Props {
  checks: Checked[];
  ready: Ready;
  onChange: (ready: Ready) => void;
}

/** The checks before the fire, with what each costs on this blade. */
export function Checks({ checks, ready, onChange }: Props) {
  const { say } = useUnits();
  const answer = (check: string, text: string) => {
    const { [check]: _, ...rest } = ready.checks;
    onChange({ ...ready, checks: text === "" ? rest : { ...rest, [check]: text === "done" } });
  };
  return (
    <section aria-label="Before the fire">
      <h3 className="small-head">Before the fire</h3>
      <ul className={css.checks}>
        {checks.map((c) => {
          const said = ready.checks[c.check];
          return (
            <li key={c.check} className={c.standing}>
              <span className={css.sign} aria-hidden="true">
                {MARKS[c.standing]}
              </span>
              <span>
                <b>{CHECK_QUESTIONS[c.check]}</b>
                <span className="visually-hidden">: {WORDS[c.standing]}. </span>{" "}
                <span className="soft">{cost(c, say)}</span>
              </span>
              {c.measured ? (
                <span className="soft">measured</span>
              ) : (
                <select
                  className="form-select"
                  aria-label={CHECK_QUESTIONS[c.check]}
                  value={said === undefined ? "" : said ? "done" : "not"}
                  onChange={(e) => answer(c.check, e.target.value)}
                >
                  <option value="">not looked at</option>
                  <option value="done">done</option>
                  <option value="not">not yet</option>
                </select>
              )}
            </li>
          );
        })}
      </ul>
    </section>
  );
}

const percent = (share: number) => (share < 0.005 ? "<1 %" : `${Math.round(100 * share)} %`);

function Numbers({ name, p, chosen }: { name: string; p?: Prediction; chosen: boolean }) {
  const { about } = useUnits();
  return (
    <tr className={chosen ? "chosen" : ""}>
      <th scope="row">
        {name}
        {chosen && <span className="soft"> · as it is</span>}
      </th>
      <td className="num">{p?.bend ? percent(p.bend.side_over_tolerance_probability) : "…"}</td>
      <td className="num">{p?.bend ? about(p.bend.side_ninety_mm) : "…"}</td>
      <td className="num">{p?.crack ? percent(p.crack.probability) : "…"}</td>
      <td className="num">
        {p?.decarburization_mm === undefined ? "…" : about(p.decarburization_mm)}
      </td>
      <td className="num">{p ? `${p.hardness.tempered.middle.toFixed(1)}` : "…"}</td>
    </tr>
  );
}

/** Grinding first or hardening first, side by side on this blade. */
export function Orders({ blade, plan }: { blade: Blade; plan?: Plan }) {
  const { say } = useUnits();
  const first = { ...blade, ready: { ...blade.ready, order: "grind_first" as const } };
  const bar = { ...blade, ready: { ...blade.ready, order: "harden_first" as const } };
  const a = usePrediction(first, plan?.steps);
  const b = usePrediction(bar, plan?.steps);
  return (
    <section aria-label="Grind first or harden first" className="methods">
      <Table>
        <thead>
          <tr>
            <th scope="col">Grind or harden first</th>
            <th scope="col">Bends too far</th>
            <th scope="col">1 in 10 beyond</th>
            <th scope="col">Cracks</th>
            <th scope="col">Skin lost</th>
            <th scope="col">HRC</th>
          </tr>
        </thead>
        <tbody>
          <Numbers
            name="Grind first, finish after"
            p={a.data}
            chosen={blade.ready.order === "grind_first"}
          />
          <Numbers
            name="Harden the bar, grind after"
            p={b.data}
            chosen={blade.ready.order === "harden_first"}
          />
        </tbody>
      </Table>
      {blade.ready.order === "harden_first" && (
        <p className="caution">
          All the grinding is in hard steel: the edge must never pass about {say.temperature(175)}{" "}
          at the belt. Dip it, bare hands on it, eyes and lungs covered.
        </p>
      )}
    </section>
  );
}
