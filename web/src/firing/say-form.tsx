import { useState } from "react";
import { Form } from "react-bootstrap";
import type { Step } from "../api/client";
import { Field } from "../fields/field";
import { QuantityInput } from "../quantity/quantity-input";
import { MEDIA } from "../words/names";
import css from "./firing.module.css";
import { OperatorInput } from "./operator";

/** The rounds of a temper, or the baths of a quench, to choose one from; nothing where there is only one. */
export function rounds(step: Step): string[] {
  if (step.kind === "temper" && step.times > 1) {
    return Array.from({ length: step.times }, (_, i) => `round ${i + 1}`);
  }
  if (step.kind === "quench" && step.stages.length > 1) {
    return step.stages.map((s) => MEDIA[s.medium] ?? s.medium);
  }
  return [];
}

/** What really was, where it differs from the plan. */
export interface Said {
  round?: number;
  temperature_c?: number;
  lasted_s?: number;
  note?: string;
}

/** Asks what really was, and who quenches. */
export function SayForm(props: {
  title: string;
  /** Names of its rounds or baths; empty where there is only one. */
  rounds: string[];
  /** The one at hand. */
  now: number;
  /** It can be said of all of them at once. */
  every: boolean;
  operator: string;
  /** `operator` only where it changed, `said` only where something was said. */
  onSay: (said: Said | null, operator: string | null) => void;
  onCancel: () => void;
}) {
  const [temperature, setTemperature] = useState<number | null>(null);
  const [lasted, setLasted] = useState<number | null>(null);
  const [note, setNote] = useState("");
  const [round, setRound] = useState(String(props.now));
  const [operator, setOperator] = useState(props.operator);
  const quiet = temperature === null && lasted === null && note.trim() === "";
  const other = operator.trim() !== "" && operator.trim() !== props.operator;
  const nothing = quiet && !other;
  return (
    <form
      className={css.say}
      onSubmit={(e) => {
        e.preventDefault();
        if (nothing) return;
        const said = {
          round: props.rounds.length > 0 && round !== "" ? Number(round) : undefined,
          temperature_c: temperature ?? undefined,
          lasted_s: lasted ?? undefined,
          note,
        };
        props.onSay(quiet ? null : said, other ? operator.trim() : null);
      }}
    >
      <p>Planned: {props.title}. What really was:</p>
      {props.rounds.length > 0 && (
        <Field label="Of">
          {(tie) => (
            <Form.Select {...tie} value={round} onChange={(e) => setRound(e.target.value)}>
              {props.rounds.map((name, i) => (
                <option key={name} value={String(i)}>
                  {name}
                </option>
              ))}
              {props.every && <option value="">every round</option>}
            </Form.Select>
          )}
        </Field>
      )}
      <QuantityInput
        label="Temperature"
        kind="temperature"
        value={temperature}
        range={[-200, 1300]}
        onChange={setTemperature}
      />
      <QuantityInput
        label="Lasted"
        kind="time"
        value={lasted}
        range={[0, 604_800]}
        onChange={setLasted}
      />
      <OperatorInput value={operator} onChange={setOperator} />
      <Field label="Remark" className="field wide">
        {(tie) => (
          <Form.Control
            {...tie}
            value={note}
            maxLength={500}
            onChange={(e) => setNote(e.target.value)}
          />
        )}
      </Field>
      <div className={css.alt}>
        <button type="submit" disabled={nothing}>
          Keep it
        </button>
        <button type="button" onClick={props.onCancel}>
          Never mind
        </button>
      </div>
    </form>
  );
}
