import { useState } from "react";
import { Table } from "react-bootstrap";
import { Link } from "react-router";
import type { LessonsView, OutcomeLesson, OutcomeName, Proposal } from "../api/client";
import { useLessons } from "../api/queries";
import { RadioRow } from "../fields/radio-row";
import { useUnits } from "../quantity/units";
import { Bar, Biases } from "./biases";
import { Lengths } from "./lengths";
import css from "./lessons.module.css";
import { Curve, Scatter } from "./plots";
import { Warp } from "./warp";
import {
  amount,
  beyond,
  counted,
  grouped,
  nameOf,
  OUTCOMES,
  sentences,
  teaches,
  toDo,
} from "./words";

/** What to try next, the best first. */
function Next({ all }: { all: Proposal[] }) {
  const units = useUnits();
  const [first, ...others] = all;
  const [open, setOpen] = useState(false);
  if (!first) return null;
  const one = (p: Proposal) => (
    <>
      <b>{toDo(p, units)}</b> {teaches(p)}
      {"id" in p.measurement && (
        <>
          {" "}
          <Link to={`/stations/${p.measurement.id}`}>Note its check</Link>
        </>
      )}
    </>
  );
  return (
    <section className={css["try-next"]} aria-label="To try next">
      <h2>To try next</h2>
      <p>{one(first)}</p>
      {open && others.map((p) => <p key={toDo(p, units)}>{one(p)}</p>)}
      {others.length > 0 && (
        <button type="button" className="why" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? "only the best" : others.length === 1 ? "one more" : `${others.length} more`}
        </button>
      )}
    </section>
  );
}

/** One outcome: sentences first, plots second. */
function Outcome({ of, marks }: { of: OutcomeLesson; marks: LessonsView["marks"] }) {
  const units = useUnits();
  const missed = of.lesson.points
    .filter((p) => !p.held)
    .slice(-8)
    .reverse();
  const say = (v: number) => amount(of.outcome, v, units);
  return (
    <div className="two">
      <div>
        <ul className="sentences">
          {sentences(of, units).map((s) => (
            <li key={s}>{s}</li>
          ))}
        </ul>
        <Biases of={of} />
      </div>
      <div>
        <Scatter of={of} marks={marks} />
        <Curve of={of} />
        {missed.length > 0 && (
          <>
            <h2>Did not fit</h2>
            <ul className="sentences">
              {missed.map((p) => (
                <li key={`${p.blade} ${p.measured} ${p.predicted}`}>
                  <Link to={`/blades/${p.blade}/readings`} className="num">
                    {marks[p.blade ?? ""] ?? "?"}
                  </Link>
                  : measured <b className="num">{say(p.measured)}</b>, the other blades say{" "}
                  {say(p.low)} to {say(p.high)}.
                </li>
              ))}
            </ul>
          </>
        )}
      </div>
    </div>
  );
}

/** Cracks, counted against what was to be expected. */
function Cracks({ all }: { all: LessonsView["cracks"] }) {
  const [shop, ...others] = all;
  if (!shop) return null;
  const most = Math.max(...all.map((c) => Math.max(c.high, c.cracked)), 1);
  const groups = grouped(others.filter((c) => c.cracked > 0 || c.looked_at >= 3));
  const x = (n: number) => 6 + (n / most) * 188;
  return (
    <>
      <ul className="sentences">
        <li>In the whole shop {counted(shop)}.</li>
        <li>
          Each blade is judged by all the others. Say of sound blades too that they are sound: it is
          them that the risk is learned from.
        </li>
      </ul>
      <section className={css.biases} aria-label="Cracks by steel, tank and hand">
        <Table>
          {groups.map(({ title, own }) => (
            <tbody key={title}>
              {own.map((c, i) => (
                <tr key={nameOf(c)} className={beyond(c) ? css.sure : ""}>
                  <th scope="rowgroup">{i === 0 ? title : ""}</th>
                  <th scope="row">{nameOf(c)}</th>
                  <td>
                    <Bar
                      width={200}
                      zero={x(0)}
                      low={x(c.low)}
                      high={x(c.high)}
                      at={x(c.cracked)}
                      full={beyond(c)}
                    />
                  </td>
                  <td>
                    {counted(c)}
                    {beyond(c) && (
                      <b>: {c.cracked > c.high ? "more" : "fewer"} than chance allows</b>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          ))}
        </Table>
      </section>
    </>
  );
}

/** What is missing is said too: nothing can be learned from what is not written down. */
type Told = OutcomeName | "side" | "cracks";

const MISSING: Record<Told, string> = {
  tempered: "no hardness after tempering",
  as_quenched: "no hardness before tempering",
  line: "no hamon",
  band: "no width of a band",
  side: "no bend straight from the quench",
  curve: "no curve to the spine or the edge",
  grain: "no grain of a broken coupon",
  cracks: "no look for cracks",
};

/** What the records say: sentences first, the plots second. */
export function LessonsPage() {
  const query = useLessons();
  const l = query.data;
  const [chosen, setChosen] = useState<Told>();
  const options = Object.fromEntries([
    ...(l?.outcomes ?? []).map((o) => [o.outcome, OUTCOMES[o.outcome]]),
    ...(l && l.warp_promises.length > 0 ? [["side", "Sideways bend"]] : []),
    ...(l && l.cracks.length > 0 ? [["cracks", "Cracks"]] : []),
  ]) as Record<Told, string>;
  const known = Object.keys(options) as Told[];
  const value = chosen && chosen in options ? chosen : known[0];
  const outcome = l?.outcomes.find((o) => o.outcome === value);
  const missing = (Object.keys(MISSING) as Told[]).filter((o) => !(o in options));
  return (
    <main className="page lessons">
      <div className="head">
        <h1>Lessons</h1>
        <Link to="/compare">Compare blades</Link>
      </div>
      {query.error && <p role="alert">{query.error.message}</p>}
      {l?.counting && (
        <p role="status" className="soft">
          Something came in since: it is being counted.
        </p>
      )}
      {l && !value && (
        <p>
          Nothing measured yet. Fire a blade and read its hardness: each result makes the next
          prediction better. A handful is enough to see it move.
        </p>
      )}
      {l && <Next all={l.next} />}
      {l && value && (
        <>
          <RadioRow
            label="Outcome"
            name="outcome"
            options={options}
            value={value}
            onChange={setChosen}
          />
          {outcome && <Outcome key={value} of={outcome} marks={l.marks} />}
          {value === "side" && <Warp lessons={l} />}
          {value === "cracks" && <Cracks all={l.cracks} />}
          {missing.length > 0 && (
            <p className="soft">
              Written down so far: {missing.map((o) => MISSING[o]).join(", ")}. What is written down
              under Readings is learned from.
            </p>
          )}
        </>
      )}
      <Lengths />
    </main>
  );
}
