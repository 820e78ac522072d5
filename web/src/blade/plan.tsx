import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { Link } from "react-router";
import {
  ApiError,
  api,
  type Blade,
  type Clay,
  type Medium,
  type Plan,
  type Prediction,
  problemOf,
  type Step,
  take,
} from "../api/client";
import { queries, useFirings, useReadings, useStations, useSteels } from "../api/queries";
import { BladeView } from "../drawing/blade-view";
import { HeatPath, stepSentence } from "../drawing/heat-path";
import { QuantityInput } from "../quantity/quantity-input";
import { useUnits } from "../quantity/units";
import { changeLabel } from "../words/changes";
import { CAUTIONS, capital, hrc, LOOKS, MEDIA, PARTS, STEPS } from "../words/names";
import { because, next as nextInWords, temperFor } from "../words/reasons";
import { warned } from "../words/warnings";
import {
  apply,
  fresh,
  insert,
  nudge,
  remove,
  replace,
  TEMPERATURE,
  TIME,
  timeOf,
  withTemperature,
  withTime,
} from "./edit-plan";
import { Helps } from "./helps";
import { Methods } from "./methods";
import { Outcomes } from "./outcomes";
import { usePrediction, useSettled } from "./prediction";
import { clayKept } from "./use-clay";

const KINDS = Object.keys(STEPS) as Step["kind"][];
const WATER: Medium[] = ["water", "brine"];

/** Usual bath temperature of a medium, °C. */
function bath(medium: Medium): number {
  if (WATER.includes(medium)) return 25;
  if (medium === "warm_oil") return 150;
  return medium.endsWith("oil") ? 50 : 20;
}

interface EditorProps {
  step: Step;
  onChange: (step: Step) => void;
  onRemove: () => void;
  onDouble: () => void;
  onAdd: (kind: Step["kind"]) => void;
  errors: Record<string, string>;
  at: number;
}

/** The selected step, in a strip under the line: it never covers the drawing. */
function StepEditor({ step, onChange, onRemove, onDouble, onAdd, errors, at }: EditorProps) {
  const stations = useStations();
  const kinds = step.kind === "temper" ? ["oven", "kiln"] : ["kiln", "forge"];
  const mine = (stations.data ?? []).filter((s) => kinds.includes(s.kind));
  const error = (field: string) => errors[`steps[${at}].${field}`];
  return (
    <div className="editor">
      <b>{STEPS[step.kind]}</b>
      {step.kind === "quench" ? (
        <>
          {step.stages.map((stage, i) => {
            const last = i === step.stages.length - 1;
            const change = (part: Partial<typeof stage>) =>
              onChange({
                ...step,
                stages: step.stages.map((s, k) => (k === i ? { ...s, ...part } : s)),
              });
            return (
              // biome-ignore lint/suspicious/noArrayIndexKey: stages have no identity but their place
              <span className="stage" key={i}>
                {i > 0 && "then "}
                <Form.Select
                  aria-label={`Medium ${i + 1}`}
                  value={stage.medium}
                  onChange={(e) => {
                    const medium = e.target.value as Medium;
                    change({ medium, bath_c: bath(medium) });
                  }}
                >
                  {Object.entries(MEDIA).map(([id, name]) => (
                    <option key={id} value={id}>
                      {name}
                    </option>
                  ))}
                </Form.Select>
                <QuantityInput
                  label={`Bath ${i + 1}`}
                  hideLabel
                  kind="temperature"
                  value={stage.bath_c}
                  range={[-20, 230]}
                  error={error(`stages[${i}].bath_c`)}
                  onChange={(bath_c) => change({ bath_c })}
                />
                {!last && (
                  <QuantityInput
                    label={`Time in medium ${i + 1}`}
                    hideLabel
                    kind="time"
                    value={stage.for_s ?? 2}
                    range={[0.1, 3600]}
                    error={error(`stages[${i}].for_s`)}
                    onChange={(for_s) => change({ for_s })}
                  />
                )}
              </span>
            );
          })}
          {step.stages.length === 1 ? (
            <Button
              variant="link"
              onClick={() => {
                const first = step.stages[0];
                if (!first) return;
                onChange({
                  ...step,
                  stages: [
                    { ...first, for_s: 2 },
                    { medium: "fast_oil", bath_c: 50 },
                  ],
                });
              }}
            >
              then another medium
            </Button>
          ) : (
            <Button
              variant="link"
              onClick={() => {
                const kept = step.stages.slice(0, -1);
                const last = kept.at(-1);
                if (last) kept[kept.length - 1] = { medium: last.medium, bath_c: last.bath_c };
                onChange({ ...step, stages: kept });
              }}
            >
              drop the last
            </Button>
          )}
        </>
      ) : (
        <>
          {"temperature_c" in step && (
            <QuantityInput
              label="Temperature"
              hideLabel
              kind="temperature"
              value={step.temperature_c}
              range={TEMPERATURE}
              error={error("temperature_c")}
              onChange={(t) => onChange(withTemperature(step, t))}
            />
          )}
          {timeOf(step) !== null && (
            <QuantityInput
              label={step.kind === "austenitize" ? "Soak, from back at heat" : "Hold"}
              hideLabel
              kind="time"
              value={timeOf(step) ?? 0}
              range={TIME}
              error={error(step.kind === "austenitize" ? "soak_s" : "hold_s")}
              onChange={(s) => onChange(withTime(step, s))}
            />
          )}
          {step.kind === "check" && (
            <Form.Select
              aria-label="Look at"
              value={step.look}
              onChange={(e) => onChange({ ...step, look: e.target.value as typeof step.look })}
            >
              {Object.entries(LOOKS).map(([id, name]) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </Form.Select>
          )}
          {step.kind === "torch_temper" && (
            <Form.Select
              aria-label="Part"
              value={step.part}
              onChange={(e) => onChange({ ...step, part: e.target.value as typeof step.part })}
            >
              {Object.entries(PARTS).map(([id, name]) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </Form.Select>
          )}
          {step.kind === "sub_zero" && (
            <>
              <span className="soft">after</span>
              <QuantityInput
                label="Wait after the quench"
                hideLabel
                kind="time"
                value={step.wait_s ?? 0}
                range={TIME}
                error={error("wait_s")}
                onChange={(wait_s) => onChange({ ...step, wait_s })}
              />
              <span className="soft">of waiting</span>
            </>
          )}
          {step.kind === "austenitize" && <span className="soft">from back at heat</span>}
          {step.kind === "temper" && (
            <span className="stage">
              <Form.Select
                aria-label="How many tempers"
                value={step.times}
                onChange={(e) => onChange({ ...step, times: Number(e.target.value) })}
              >
                {[1, 2, 3, 4].map((n) => (
                  <option key={n} value={n}>
                    {n === 1 ? "once" : `${n} times`}
                  </option>
                ))}
              </Form.Select>
            </span>
          )}
          {(step.kind === "austenitize" || step.kind === "temper") && mine.length > 0 && (
            <Form.Select
              aria-label="In"
              className="where"
              value={step.station_id ?? ""}
              onChange={(e) => onChange({ ...step, station_id: e.target.value || undefined })}
            >
              <option value="">no station named</option>
              {mine.map((s) => (
                <option key={s.id} value={s.id}>
                  {s.name}
                </option>
              ))}
            </Form.Select>
          )}
        </>
      )}
      <span className="tools">
        <Form.Select
          aria-label="Add a step after this one"
          id="add-step"
          value=""
          onChange={(e) => e.target.value && onAdd(e.target.value as Step["kind"])}
        >
          <option value="">Add after…</option>
          {KINDS.map((kind) => (
            <option key={kind} value={kind}>
              {STEPS[kind]}
            </option>
          ))}
        </Form.Select>
        <Button variant="link" onClick={onDouble}>
          Double
        </Button>
        <Button variant="link" onClick={onRemove}>
          Remove
        </Button>
      </span>
      {CAUTIONS[step.kind] && <p className="caution">{CAUTIONS[step.kind]}</p>}
    </div>
  );
}

function Warnings(props: {
  prediction?: Prediction;
  locked: boolean;
  onFix: (steps: (now: Step[]) => Step[]) => void;
}) {
  const { say } = useUnits();
  const all = props.prediction?.warnings ?? [];
  if (all.length === 0) return <p className="soft fine">Nothing to warn of in this plan.</p>;
  return (
    <ol className="warnings" aria-label="Warnings">
      {all.map(({ fix, ...w }, i) => (
        <li key={`${w.code} ${w.step}`}>
          <span className="flag-mark" aria-hidden="true">
            {i + 1}
          </span>
          <span>
            <span className="visually-hidden">Warning {i + 1}: </span>
            {warned(w, say)}
          </span>
          {fix && !props.locked && (
            <Button variant="link" onClick={() => props.onFix((now) => apply(now, fix))}>
              {changeLabel(fix, say)}
            </Button>
          )}
        </li>
      ))}
    </ol>
  );
}

interface Props {
  blade: Blade;
  plan: Plan;
}

/** Saves the draft a moment after the last change; a newer one of somebody else is never overwritten. */
function useDraft(blade: Blade, plan: Plan) {
  const client = useQueryClient();
  const [steps, setSteps] = useState(plan.steps);
  const [past, setPast] = useState<Step[][]>([]);
  const [future, setFuture] = useState<Step[][]>([]);
  const [version, setVersion] = useState(plan.version);
  const [problem, setProblem] = useState<ApiError | null>(null);
  const saved = useRef(JSON.stringify(plan.steps));
  const settled = useSettled(steps, 500);
  const save = useMutation({
    mutationFn: (body: { steps: Step[]; version: number }) =>
      take(
        api.PUT("/api/v1/blades/{id}/plan", {
          params: { path: { id: blade.id } },
          body,
        }),
      ),
    onSuccess: (stored) => {
      saved.current = JSON.stringify(stored.steps);
      setVersion(stored.version);
      setProblem(null);
      client.setQueryData(queries.plan(blade.id).queryKey, stored);
    },
    onError: (error) => setProblem(error instanceof ApiError ? error : null),
  });
  const { mutate, isPending } = save;
  const conflict = problem?.problem.status === 409;
  useEffect(() => {
    const text = JSON.stringify(settled);
    if (text === saved.current || isPending || conflict || plan.frozen_at) return;
    saved.current = text;
    mutate({ steps: settled, version });
  }, [settled, version, isPending, conflict, plan.frozen_at, mutate]);

  const change = useCallback((to: (now: Step[]) => Step[]) => {
    setSteps((now) => {
      const next = to(now);
      if (next === now) return now;
      setPast((p) => [...p.slice(-99), now]);
      setFuture([]);
      return next;
    });
  }, []);
  const undo = () => {
    const before = past.at(-1);
    if (!before) return;
    setPast(past.slice(0, -1));
    setFuture([steps, ...future]);
    setSteps(before);
  };
  const redo = () => {
    const after = future[0];
    if (!after) return;
    setFuture(future.slice(1));
    setPast([...past, steps]);
    setSteps(after);
  };
  const theirs = conflict ? (problem?.problem.current as Plan | undefined) : undefined;
  const resolve = (mine: boolean) => {
    if (!theirs) return;
    setProblem(null);
    setVersion(theirs.version);
    saved.current = JSON.stringify(theirs.steps);
    if (!mine) setSteps(theirs.steps);
  };
  const dirty = JSON.stringify(steps) !== saved.current || isPending;
  return { steps, change, undo, redo, problem, theirs, resolve, dirty, past, future };
}

/** Lays the clay that goes with a method; the line that is wanted stays. */
function useLay(bladeId: string) {
  const client = useQueryClient();
  const params = { path: { id: bladeId } };
  return useMutation({
    mutationFn: async (clay: Clay) => {
      const { wanted, version } = await take(api.GET("/api/v1/blades/{id}/clay", { params }));
      const body = { clay, wanted, version };
      return take(api.PUT("/api/v1/blades/{id}/clay", { params, body }));
    },
    onSuccess: (kept) => clayKept(client, bladeId, kept),
  });
}

/** The heat path, the blade and the outcomes, together. */
export function PlanTab({ blade, plan }: Props) {
  const client = useQueryClient();
  const { units, show, say } = useUnits();
  const draft = useDraft(blade, plan);
  const { steps, change } = draft;
  const [selected, setSelected] = useState(() => {
    const heat = plan.steps.findIndex((s) => s.kind === "austenitize");
    return Math.max(0, heat);
  });
  const steels = useSteels();
  const steel = steels.data?.find((s) => s.key === blade.steel);
  const firings = useFirings(blade.id);
  const readings = useReadings(blade.id);
  const predicted = usePrediction(blade, steps);
  const prediction = predicted.data;
  const at = Math.min(selected, steps.length - 1);
  const step = steps[at];
  const [comparing, setComparing] = useState(false);
  const lay = useLay(blade.id);
  const errors = draft.problem?.fields ?? {};
  const frozen = !!plan.frozen_at;

  const add = (kind: Step["kind"]) => {
    const made = fresh(kind, steel?.austenitize_c ?? 815, steel?.normalize_c ?? null);
    change((now) => insert(now, at + 1, made));
    setSelected(at + 1);
  };
  const take1 = () => {
    change((now) => (now.length > 1 ? remove(now, at) : now));
    setSelected(Math.max(0, at - 1));
  };
  const double = () => {
    if (!step) return;
    change((now) => insert(now, at + 1, structuredClone(step)));
    setSelected(at + 1);
  };
  const press = (event: React.KeyboardEvent) => {
    const handled = () => event.preventDefault();
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z") {
      handled();
      if (event.shiftKey) draft.redo();
      else draft.undo();
      return;
    }
    if (event.ctrlKey || event.metaKey) return;
    const way = event.key === "ArrowUp" ? 1 : -1;
    switch (event.key) {
      case "ArrowLeft":
        handled();
        setSelected(Math.max(0, at - 1));
        return;
      case "ArrowRight":
        handled();
        setSelected(Math.min(steps.length - 1, at + 1));
        return;
      case "Home":
        handled();
        setSelected(0);
        return;
      case "End":
        handled();
        setSelected(steps.length - 1);
        return;
    }
    if (frozen) return;
    switch (event.key) {
      case "ArrowUp":
      case "ArrowDown":
        handled();
        change((now) =>
          nudge(now, at, event.altKey ? "time" : "temperature", way, event.shiftKey, units),
        );
        return;
      case "Delete":
      case "Backspace":
        handled();
        take1();
        return;
      case "d":
      case "D":
        handled();
        double();
        return;
      case "a":
      case "A":
        handled();
        document.getElementById("add-step")?.focus();
        return;
      case "Enter":
        handled();
        document.querySelector<HTMLInputElement>(".editor input")?.focus();
        return;
    }
    // Typing a number goes straight to the step's temperature.
    if (/^[0-9−-]$/.test(event.key)) {
      document.querySelector<HTMLInputElement>(".editor input")?.focus();
    }
  };

  const again = useMutation({
    mutationFn: () =>
      take(
        api.PUT("/api/v1/blades/{id}/plan", {
          params: { path: { id: blade.id } },
          body: { steps, version: 0 },
        }),
      ),
    onSuccess: (stored) => {
      client.setQueryData(queries.plan(blade.id).queryKey, stored);
      client.invalidateQueries({ queryKey: queries.blade(blade.id).queryKey });
    },
  });
  const forTarget = prediction?.temper_for_target;
  const temperAt = steps.findLastIndex((s) => s.kind === "temper");
  const temper = steps[temperAt];
  const offers =
    !frozen &&
    forTarget?.temperature_c &&
    temper?.kind === "temper" &&
    Math.abs(forTarget.temperature_c - temper.temperature_c) >= 1;
  // The temper for the wanted hardness is offered above already.
  const next = prediction?.next;
  const soak = prediction?.outcome_reasons?.find((r) => r.about === "soak");
  const others = Object.entries(errors).filter(([f]) => !f.startsWith(`steps[${at}].`));
  return (
    <>
      <HeatPath
        steps={steps}
        selected={at}
        onSelect={setSelected}
        onKeyDown={press}
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
            step={step}
            at={at}
            errors={errors}
            onChange={(to) => change((now) => replace(now, at, to))}
            onRemove={take1}
            onDouble={double}
            onAdd={add}
          />
        )
      )}
      {draft.theirs && (
        <div className="notice" role="alert">
          <span>
            Someone changed this plan meanwhile. Nothing of yours is lost: theirs is{" "}
            {draft.theirs.steps.map((s) => stepSentence(s, show)).join(" · ")}.
          </span>
          <Button onClick={() => draft.resolve(true)}>Keep mine</Button>
          <Button variant="link" onClick={() => draft.resolve(false)}>
            Take theirs
          </Button>
        </div>
      )}
      {draft.problem && !draft.theirs && (
        <div className="notice" role="alert">
          <span>
            Not saved; what you planned is still here.{" "}
            {others.length > 0 ? others.map(([, m]) => m).join(" ") : draft.problem.message}
          </span>
        </div>
      )}
      {lay.error && (
        <div className="notice" role="alert">
          The steps are in the plan, but its clay was not laid: {problemOf(lay.error)} Lay it under
          Clay.
        </div>
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
          <div className="over">
            <b>Blade</b>
            <span className="soft">
              {prediction?.temper_colour && prediction.temper_colour !== "none yet"
                ? `Temper colour to expect: ${prediction.temper_colour}`
                : ""}
            </span>
            <span className="saved soft">
              {frozen ? "" : draft.problem ? "not saved" : draft.dirty ? "saving…" : "saved"}
            </span>
            {!frozen && (
              <>
                <Button variant="link" disabled={draft.past.length === 0} onClick={draft.undo}>
                  Undo
                </Button>
                <Button variant="link" disabled={draft.future.length === 0} onClick={draft.redo}>
                  Redo
                </Button>
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
          </div>
          <BladeView blade={blade} outline={blade.outline} steps={steps} height={188} />
          {forTarget && (
            <p className="advice">
              {forTarget.temperature_c
                ? `${capital(show("temperature", forTarget.temperature_c))} gives ${hrc(forTarget.wanted_hrc)} HRC, the middle of what you want${
                    forTarget.interval_c
                      ? `; 9 in 10 between ${show("temperature", forTarget.interval_c.low)} and ${show("temperature", forTarget.interval_c.high)}`
                      : ""
                  }.`
                : temperFor(forTarget, say)}
              {offers && (
                <Button
                  variant="link"
                  onClick={() =>
                    change((now) =>
                      now.map((s, i) =>
                        s.kind === "temper" && i > now.findLastIndex((q) => q.kind === "quench")
                          ? { ...s, temperature_c: forTarget.temperature_c ?? s.temperature_c }
                          : s,
                      ),
                    )
                  }
                >
                  Set {show("temperature", forTarget.temperature_c ?? 0)}
                </Button>
              )}
            </p>
          )}
          {next && !offers && (
            <p className="advice">
              {nextInWords(next, say)}
              {!frozen && (
                <Button variant="link" onClick={() => change((now) => apply(now, next.fix))}>
                  {changeLabel(next.fix, say)}
                </Button>
              )}
            </p>
          )}
          {soak && <p className="advice">{because(soak, say)}</p>}
          <Warnings prediction={prediction} locked={frozen} onFix={change} />
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
