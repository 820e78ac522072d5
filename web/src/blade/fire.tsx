import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { Link, useNavigate } from "react-router";
import { v7 as uuid } from "uuid";
import {
  ApiError,
  api,
  type Blade,
  type Doubt,
  type Firing,
  type Plan,
  type Step,
  take,
} from "../api/client";
import { changed } from "../api/live";
import { useFirings, useSession } from "../api/queries";
import { stepSentence } from "../drawing/step-words";
import { Notice } from "../fields/notice";
import { orderOf } from "../firing/course";
import { journal } from "../firing/journal";
import { keepOperator, OperatorInput, usualOperator } from "../firing/operator";
import { event, moment } from "../firing/press";
import { usePrediction } from "../prediction/prediction";
import { useUnits } from "../quantity/units";
import { Traces } from "../readings/traces";
import { deviation } from "../words/deviations";
import { manner } from "../words/manner";
import { hrc, MEDIA, STEPS, span } from "../words/names";
import { warned } from "../words/warnings";
import css from "./blade.module.css";

const when = (iso: string) =>
  new Date(iso).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" });

/** What was done, where it differs from the plan: a temper whose rounds differed is told round by round. */
export function differences(firing: Firing): { step: Step; done: Step[] }[] {
  return orderOf(firing).flatMap((i) => {
    const step = firing.planned?.steps[i] ?? firing.steps[i];
    if (!step) return [];
    const done = firing.done.steps.filter((_, k) => firing.done.planned[k] === i);
    const same = done.length === 1 && JSON.stringify(done[0]) === JSON.stringify(step);
    return same || done.length === 0 ? [] : [{ step, done }];
  });
}

/** What was pressed, or not pressed, and does not count. */
export function doubtSentence(doubt: Doubt, firing: Firing): string {
  const step = firing.steps[doubt.step];
  const name = step ? STEPS[step.kind] : `Step ${doubt.step + 1}`;
  if (doubt.doubt === "not_pressed") {
    return `${name} was never pressed: it counts as planned, unless you say how it went.`;
  }
  const round =
    step?.kind === "temper" && step.times > 1
      ? `, round ${doubt.round + 1},`
      : step?.kind === "quench" && step.stages.length > 1
        ? `, ${MEDIA[step.stages[doubt.round]?.medium ?? "water"]},`
        : "";
  return `${name}${round} was pressed for ${span(doubt.pressed_s)}, too far from the plan to be believed: ${span(doubt.counted_s)} counts, unless you say how long it was.`;
}

/** Whether it goes on, and how it ended. */
function endOf(firing: Firing): string {
  if (!firing.closed_at) return ", going on";
  if (firing.state.end === "mistake") return ", begun by mistake: nothing was done to the blade";
  return firing.state.end === "abandoned" ? ", abandoned" : ", closed";
}

function Past({ firing, number }: { firing: Firing; number: number }) {
  const { show, say } = useUnits();
  const p = firing.prediction.hardness;
  const told = (step: Step) =>
    [stepSentence(step, show), manner(step, say)].filter(Boolean).join(", ");
  const changed = differences(firing).filter(
    ({ step, done }) => done.length !== 1 || done.map(told)[0] !== told(step),
  );
  return (
    <li>
      <b>Firing {number}</b>, {when(firing.started_at)}
      {endOf(firing)}. Predicted when frozen: as quenched{" "}
      <span className="num">{hrc(p.as_quenched.middle)}</span>, tempered{" "}
      <span className="num">{hrc(p.tempered.middle)}</span> ({hrc(p.tempered.low)} to{" "}
      {hrc(p.tempered.high)}) HRC.
      {changed.length > 0 && (
        <ul>
          {changed.map(({ step, done }, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: the order of the plan never changes
            <li key={i}>
              Planned {told(step)}; done {done.map(told).join(", then ")}.
            </li>
          ))}
        </ul>
      )}
      {(firing.state.deviations ?? []).map((how) => (
        <p key={how.event}>{deviation(how, firing.steps, say)}.</p>
      ))}
      {(firing.done.doubts ?? []).map((doubt) => (
        <p
          key={`${doubt.doubt} ${doubt.step} ${"round" in doubt ? doubt.round : ""}`}
          className="warn-line"
        >
          {doubtSentence(doubt, firing)}
        </p>
      ))}
      {firing.done.untempered_s !== null && firing.done.untempered_s !== undefined && (
        <p className="soft">
          It lay hard and untempered for {span(firing.done.untempered_s)}; that counts too.
        </p>
      )}
      {firing.state.said.map((said, i) =>
        said.kind === "say" && said.note ? (
          // biome-ignore lint/suspicious/noArrayIndexKey: what was said never reorders
          <p key={i} className="soft">
            “{said.note}”
          </p>
        ) : null,
      )}
    </li>
  );
}

/** Freezing the plan, starting the firing, and the firings there were. */
export function FireTab({ blade, plan }: { blade: Blade; plan?: Plan }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const { show, say } = useUnits();
  const firings = useFirings(blade.id);
  const predicted = usePrediction(blade, plan?.steps);
  const session = useSession();
  const [said, setOperator] = useState<string>();
  const operator = said ?? usualOperator(session.data?.person.name ?? "");
  const start = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/v1/blades/{id}/firings", {
          params: { path: { id: blade.id } },
          body: { id: uuid(), plan_version: plan?.version ?? 0 },
        }),
      ),
    onSuccess: async (firing) => {
      const name = operator.trim();
      if (name) {
        keepOperator(name);
        const body = event({ kind: "operator", name }, moment());
        await journal.add([{ firing: firing.id, body }]);
      }
      changed(client, "firing", firing.id, blade.id);
      changed(client, "plan", "", blade.id);
      navigate(`/firings/${firing.id}`);
    },
  });
  const all = firings.data ?? [];
  const open = all.find((f) => !f.closed_at);
  const h = predicted.data?.hardness;
  return (
    <div className={`page ${css["fire-tab"]}`}>
      {open && (
        <p>
          <Link className="btn btn-primary" to={`/firings/${open.id}`}>
            Go on firing
          </Link>
        </p>
      )}
      {!open && plan && !plan.frozen_at && (
        <section>
          <h2>Before the fire</h2>
          <p>
            Starting freezes this plan and what is predicted of it, so that what comes out can be
            held against it later.
          </p>
          <ol className={css["plain-steps"]}>
            {plan.steps.map((s, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: steps have no identity but their place
              <li key={i}>
                {stepSentence(s, show)}
                {manner(s, say) && `: ${manner(s, say)}`}
              </li>
            ))}
          </ol>
          {h && (
            <p>
              Predicted: as quenched <b className="num">{hrc(h.as_quenched.middle)} HRC</b>,
              tempered <b className="num">{hrc(h.tempered.middle)} HRC</b> (9 in 10 between{" "}
              {hrc(h.tempered.low)} and {hrc(h.tempered.high)}).
            </p>
          )}
          {(predicted.data?.warnings ?? []).map((w, i) => (
            <p key={w.code} className="warn-line">
              <span className="flag-mark" aria-hidden="true">
                {i + 1}
              </span>{" "}
              {warned(w, say)}
            </p>
          ))}
          <p className="caution">
            Gloves, face shield, dry floor, air in the room. Metal tank with a lid, extinguisher in
            reach, no water in the oil. Follow the makers' sheets and your local fire and electrical
            codes; gas and mains wiring belong to licensed people.
          </p>
          {start.error && (
            <Notice>
              {start.error instanceof ApiError && start.error.problem.status === 409
                ? "The plan changed since you looked. Look at it again, then start."
                : start.error.message}
            </Notice>
          )}
          <div className={css["start-line"]}>
            <OperatorInput value={operator} onChange={setOperator} />
            <Button size="lg" disabled={start.isPending} onClick={() => start.mutate()}>
              Start firing
            </Button>
          </div>
        </section>
      )}
      {!open && plan?.frozen_at && (
        <p>
          This plan was fired. To fire the blade again,{" "}
          <Link to={`/blades/${blade.id}/plan`}>make a new plan from it</Link>.
        </p>
      )}
      {!plan && (
        <p>
          There is no plan yet. <Link to={`/blades/${blade.id}/plan`}>Make one</Link>.
        </p>
      )}
      {all.length > 0 && (
        <section>
          <h2>Firings</h2>
          <ul className="past">
            {all.map((f, i) => (
              <Past key={f.id} firing={f} number={all.length - i} />
            ))}
          </ul>
        </section>
      )}
      {all.length > 0 && <Traces blade={blade} firings={all} />}
    </div>
  );
}
