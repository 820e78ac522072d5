import { useState } from "react";
import { Button } from "react-bootstrap";
import { Link } from "react-router";
import { type Blade, type Plan, type Prediction, problemOf, type Step } from "../api/client";
import { useFirings, useReadings, useSteels } from "../api/queries";
import { ConflictNotice } from "../draft/conflict-notice";
import { UndoRedo } from "../draft/undo-redo";
import { BladeView } from "../drawing/blade-view";
import { HeatPath } from "../drawing/heat-path";
import { stepSentence } from "../drawing/step-words";
import { Notice } from "../fields/notice";
import { Outcomes } from "../prediction/outcomes";
import { usePrediction } from "../prediction/prediction";
import { useUnits } from "../quantity/units";
import { changeLabel } from "../words/changes";
import { hrc } from "../words/names";
import { Advice } from "./advice";
import { BatchPlan } from "./batch-plan";
import { fresh, insert, remove, replace } from "./edit-plan";
import { Helps } from "./helps";
import { Methods } from "./methods";
import css from "./plan.module.css";
import { onPathKey } from "./plan-keys";
import { StepEditor } from "./step-editor";
import { useLay, useNewPlan, usePlanDraft } from "./use-plan";
import { Warnings } from "./warnings";

interface Props {
  blade: Blade;
  plan: Plan;
}

/** The selected step of a draft, and what is done with it. */
function useSelectedStep(blade: Blade, plan: Plan, draft: ReturnType<typeof usePlanDraft>) {
  const { now: steps, change } = draft;
  const steel = useSteels().data?.find((s) => s.key === blade.steel);
  const [selected, select] = useState(() =>
    Math.max(
      0,
      plan.steps.findIndex((s) => s.kind === "austenitize"),
    ),
  );
  const at = Math.min(selected, steps.length - 1);
  const step = steps[at];
  const addAfter = (made: Step) => {
    change((now) => insert(now, at + 1, made));
    select(at + 1);
  };
  return {
    at,
    step,
    select,
    set: (to: Step) => change((now) => replace(now, at, to)),
    add: (kind: Step["kind"]) =>
      addAfter(fresh(kind, steel?.austenitize_c ?? 815, steel?.normalize_c ?? null)),
    double: () => step && addAfter(structuredClone(step)),
    remove: () => {
      change((now) => (now.length > 1 ? remove(now, at) : now));
      select(Math.max(0, at - 1));
    },
  };
}

/** What could not be saved, and what somebody else saved meanwhile. */
function SaveNotices(props: { draft: ReturnType<typeof usePlanDraft>; at: number }) {
  const { show } = useUnits();
  const { theirs, problem, errors, resolve } = props.draft;
  if (theirs) {
    return (
      <ConflictNotice onResolve={resolve}>
        Someone changed this plan meanwhile. Nothing of yours is lost: theirs is{" "}
        {theirs.value.map((s) => stepSentence(s, show)).join(" · ")}.
      </ConflictNotice>
    );
  }
  if (!problem) return null;
  // What is wrong with the selected step stands at its field.
  const others = Object.entries(errors).filter(([f]) => !f.startsWith(`steps[${props.at}].`));
  return (
    <Notice>
      <span>
        Not saved; what you planned is still here.{" "}
        {others.length > 0 ? others.map(([, m]) => m).join(" ") : problem.message}
      </span>
    </Notice>
  );
}

function TemperColour({ prediction }: { prediction?: Prediction }) {
  const colour = prediction?.temper_colour;
  return (
    <span className="soft">
      {colour && colour !== "none yet" ? `Temper colour to expect: ${colour}` : ""}
    </span>
  );
}

/** The heat path, the blade and the outcomes, together. */
export function PlanTab({ blade, plan }: Props) {
  const { units, show, say } = useUnits();
  const draft = usePlanDraft(blade, plan);
  const { now: steps, change } = draft;
  const selected = useSelectedStep(blade, plan, draft);
  const { step, at } = selected;
  const firings = useFirings(blade.id);
  const readings = useReadings(blade.id);
  const prediction = usePrediction(blade, steps).data;
  const [comparing, setComparing] = useState(false);
  const lay = useLay(blade.id);
  const again = useNewPlan(blade.id, steps);
  const frozen = !!plan.frozen_at;
  const next = prediction?.next;
  return (
    <>
      <HeatPath
        steps={steps}
        selected={at}
        onSelect={selected.select}
        onKeyDown={(event) =>
          onPathKey(event, { ...draft, ...selected, steps, selected: at, units, frozen })
        }
        prediction={prediction}
      />
      <div className="visually-hidden" aria-live="polite">
        {step && stepSentence(step, show)}
        {prediction && `. ${hrc(prediction.hardness.tempered.middle)} HRC`}
      </div>
      {frozen ? (
        <div className="editor">
          <span>This plan was frozen when the blade was fired. It stays as it was.</span>
          {!blade.firing_open && (
            <Button onClick={() => again.mutate()}>Make a new plan from it</Button>
          )}
        </div>
      ) : (
        step && (
          <StepEditor
            key={`${at} ${step.kind}`}
            bladeId={blade.id}
            step={step}
            error={(field) => draft.errors[`steps[${at}].${field}`]}
            onChange={selected.set}
            onRemove={selected.remove}
            onDouble={selected.double}
            onAdd={selected.add}
          />
        )
      )}
      <SaveNotices draft={draft} at={at} />
      {lay.error && (
        <Notice>
          The steps are in the plan, but its clay was not laid: {problemOf(lay.error)} Lay it under
          Clay.
        </Notice>
      )}
      {comparing && !frozen && (
        <Methods
          blade={blade}
          steps={steps}
          locked={frozen}
          onUse={(to, clay) => {
            change(() => to);
            if (clay) lay.mutate(clay);
            setComparing(false);
          }}
        />
      )}
      <div className="low">
        <div>
          <div className={css.over}>
            <b>Blade</b>
            <TemperColour prediction={prediction} />
            <span className="saved soft">{frozen ? "" : draft.saved}</span>
            {!frozen && (
              <>
                <UndoRedo draft={draft} />
                <Button
                  variant="link"
                  aria-expanded={comparing}
                  onClick={() => setComparing(!comparing)}
                >
                  {comparing ? "Close the methods" : "Methods"}
                </Button>
              </>
            )}
            <Link to={`/blades/${blade.id}/sheet`}>Bench sheet</Link>
            {!frozen && <BatchPlan bladeId={blade.id} />}
          </div>
          <BladeView blade={blade} outline={blade.outline} steps={steps} height={188} />
          <Advice prediction={prediction} steps={steps} frozen={frozen} onFix={change} />
          <Warnings prediction={prediction} locked={frozen} steel={blade.steel} onFix={change} />
          {!frozen && (
            <Helps
              blade={blade}
              steps={steps}
              said={next ? changeLabel(next.fix, say) : undefined}
              onFix={change}
            />
          )}
        </div>
        <Outcomes
          prediction={prediction}
          wanted={[blade.target_low_hrc, blade.target_high_hrc]}
          earlier={firings.data?.[0]?.prediction}
          readings={readings.data ?? []}
        />
      </div>
    </>
  );
}
