import { Button, Form } from "react-bootstrap";
import type { Step } from "../api/client";
import { CAUTIONS } from "../words/cautions";
import { STEPS } from "../words/names";
import css from "./plan.module.css";
import { QuenchFields } from "./quench-fields";
import { StepFields } from "./step-fields";

const KINDS = Object.keys(STEPS) as Step["kind"][];

interface EditorProps {
  bladeId: string;
  step: Step;
  onChange: (step: Step) => void;
  onRemove: () => void;
  onDouble: () => void;
  onAdd: (kind: Step["kind"]) => void;
  error: (field: string) => string | undefined;
}

/** The selected step, in a strip under the line: it never covers the drawing. */
export function StepEditor({
  bladeId,
  step,
  onChange,
  onRemove,
  onDouble,
  onAdd,
  error,
}: EditorProps) {
  return (
    <div className="editor">
      <b>{STEPS[step.kind]}</b>
      {step.kind === "quench" ? (
        <QuenchFields step={step} onChange={onChange} error={error} />
      ) : (
        <StepFields bladeId={bladeId} step={step} onChange={onChange} error={error} />
      )}
      <span className={css.tools}>
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
