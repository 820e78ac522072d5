import { Button, Table } from "react-bootstrap";
import { Link, useParams } from "react-router";
import { type Blade, type Plan, problemOf, type Step } from "../api/client";
import { useBlade, usePlan, useStations } from "../api/queries";
import { Silhouette } from "../drawing/blade-drawing";
import { HeatPath } from "../drawing/heat-path";
import { stepNumbers } from "../drawing/step-words";
import { usePrediction } from "../prediction/prediction";
import { useUnits } from "../quantity/units";
import { CAUTIONS } from "../words/cautions";
import { CHECK_QUESTIONS } from "../words/checks";
import { hrc, PURPOSES, STEPS } from "../words/names";
import { noLine } from "../words/reasons";
import { warned } from "../words/warnings";
import css from "./blade.module.css";

/** What to watch for in a step, where the plan itself does not say it. */
function watch(step: Step, show: (kind: "temperature" | "time" | "length", v: number) => string) {
  if (step.kind === "quench") {
    return step.stages
      .map((s) => `bath at ${show("temperature", s.bath_c)}`)
      .filter((text, i, all) => all.indexOf(text) === i)
      .join(", ");
  }
  if (step.kind === "austenitize") return "from back at heat";
  if (step.kind === "temper" && step.times > 1) return "cold to the hand between";
  return "";
}

function Sheet({ blade, plan }: { blade: Blade; plan: Plan }) {
  const { show, about, say } = useUnits();
  const stations = useStations();
  const predicted = usePrediction(blade, plan.steps);
  const p = predicted.data;
  const steps = plan.steps;
  const station = (step: Step) =>
    "station_id" in step && step.station_id
      ? (stations.data?.find((s) => s.id === step.station_id)?.name ?? "")
      : "";
  const cautions = [...new Set(steps.flatMap((s) => CAUTIONS[s.kind] ?? []))];
  const length = Math.max(...blade.outline.map((q) => q[0] ?? 0)) + 100;
  const checks = (p?.checks ?? []).filter((c) => !c.measured);
  return (
    <main className={css["bench-sheet"]}>
      <div className={`${css["no-print"]} row-of`}>
        <Button onClick={() => window.print()}>Print</Button>
        <Link to={`/blades/${blade.id}/plan`}>Back to the plan</Link>
      </div>
      <header>
        <div>
          <h1>
            {blade.name} <span className="num">{blade.mark}</span>
          </h1>
          <p>
            {blade.steel_name} · {PURPOSES[blade.purpose]} · wanted {blade.target_low_hrc} to{" "}
            {blade.target_high_hrc} HRC · plan {plan.number}
            {plan.frozen_at ? ", frozen" : ", not frozen yet"}
          </p>
          <p>
            {show("length", blade.length_mm)} long, {show("length", blade.width_mm)} wide, spine{" "}
            {show("length", blade.spine_mm)}, edge {show("length", blade.edge_mm)}
            {blade.note && ` · ${blade.note}`}
          </p>
        </div>
        <Silhouette outline={blade.outline} scale={Math.min(1.2, 260 / length)} />
      </header>
      <HeatPath steps={steps} selected={-1} prediction={p} />
      <Table>
        <thead>
          <tr>
            <th>#</th>
            <th>Step</th>
            <th>Temperature</th>
            <th>How long</th>
            <th>Where</th>
            <th>Watch</th>
            <th className={css.fill}>As it was</th>
            <th>✓</th>
          </tr>
        </thead>
        <tbody>
          {steps.map((step, i) => {
            const [a, b] = stepNumbers(step, show);
            return (
              // biome-ignore lint/suspicious/noArrayIndexKey: steps have no identity but their place
              <tr key={i}>
                <td className="num">{i + 1}</td>
                <td>{STEPS[step.kind]}</td>
                <td className="num">{a}</td>
                <td className="num">{b}</td>
                <td>{station(step)}</td>
                <td>{watch(step, show)}</td>
                <td className={css.fill} />
                <td>
                  <i className={css.box} />
                </td>
              </tr>
            );
          })}
        </tbody>
      </Table>
      <div className={css.columns}>
        <section>
          <h2>Before the fire</h2>
          <ul>
            {checks.map((c) => (
              <li key={c.check}>
                <i className={`${css.box}${c.standing === "good" ? ` ${css.done}` : ""}`} />{" "}
                {CHECK_QUESTIONS[c.check]}
              </li>
            ))}
          </ul>
        </section>
        <section>
          <h2>Expected</h2>
          {p && (
            <ul>
              <li>
                {hrc(p.hardness.tempered.middle)} HRC, 9 in 10 between{" "}
                {hrc(p.hardness.tempered.low)} and {hrc(p.hardness.tempered.high)}
              </li>
              <li>{hrc(p.hardness.as_quenched.middle)} HRC out of the quench</li>
              {p.temper_colour && p.temper_colour !== "none yet" && (
                <li>Temper colour: {p.temper_colour}</li>
              )}
              {p.hamon && (
                <li>
                  {"points" in p.hamon
                    ? `Line ${about(p.hamon.height_mm)} above the edge`
                    : noLine(p.hamon.none, say)}
                </li>
              )}
              {p.soak && (
                <li>
                  At heat after {show("time", Math.round(p.soak.ready_after_s / 60) * 60)}, soak
                  from then
                </li>
              )}
            </ul>
          )}
          <p className="read">Read: ______ HRC &nbsp; straight ______ &nbsp; line ______</p>
        </section>
        <section>
          <h2>Mind</h2>
          <ul className={css.mind}>
            {cautions.map((c) => (
              <li key={c}>{c}</li>
            ))}
            {(p?.warnings ?? []).map((w) => (
              <li key={`${w.code} ${w.step}`}>
                {w.step === undefined || w.step === null ? "" : `Step ${w.step + 1}: `}
                {warned(w, say)}
              </li>
            ))}
          </ul>
        </section>
      </div>
      <p className={css.law}>
        Follow the makers' sheets and local fire and electrical codes; gas and mains wiring belong
        to licensed people.
      </p>
    </main>
  );
}

/** The plan of a blade on one printed page, for the bench. */
export function BenchSheet() {
  const { id = "" } = useParams();
  const blade = useBlade(id);
  const plan = usePlan(id);
  const error = blade.error ?? plan.error;
  if (error) {
    return (
      <main className="page">
        <p>
          {problemOf(error)} <Link to="/">To the rack</Link>
        </p>
      </main>
    );
  }
  return blade.data && plan.data ? <Sheet blade={blade.data} plan={plan.data} /> : null;
}
