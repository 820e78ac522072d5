import { Form } from "react-bootstrap";
import type { Step } from "../api/client";
import { Options } from "../fields/options";
import { QuantityInput } from "../quantity/quantity-input";
import { COOLED } from "../words/manner";

type Temper = Extract<Step, { kind: "temper" }>;

/** Most blades in an oven at once. */
const MOST_BLADES = 50;
/** A shim to start from, mm. */
const SHIM_MM = 1;

/** Clamped or free, in what it cools after each. */
export function TemperManner(props: {
  step: Temper;
  onChange: (step: Temper) => void;
  error: (field: string) => string | undefined;
}) {
  const { step, onChange, error } = props;
  const clamp = step.clamp ? (step.clamp.shim_mm ? "shim" : "straight") : "";
  return (
    <>
      <Form.Select
        aria-label="Clamped"
        value={clamp}
        onChange={(e) => {
          const to = { shim: { shim_mm: SHIM_MM }, straight: {} }[e.target.value];
          onChange({ ...step, clamp: to });
        }}
      >
        <option value="">free</option>
        <option value="straight">clamped straight</option>
        <option value="shim">clamped past straight</option>
      </Form.Select>
      {clamp === "shim" && (
        <QuantityInput
          label="Past straight"
          hideLabel
          kind="length"
          value={step.clamp?.shim_mm ?? SHIM_MM}
          range={[0.01, 20]}
          error={error("clamp.shim_mm")}
          onChange={(shim_mm) => onChange({ ...step, clamp: { shim_mm } })}
        />
      )}
      <Form.Select
        aria-label="Cools after each"
        value={step.cooled ?? ""}
        onChange={(e) =>
          onChange({ ...step, cooled: (e.target.value as typeof step.cooled) || undefined })
        }
      >
        <Options of={COOLED} placeholder="cools as usual" />
      </Form.Select>
      <Form.Select
        aria-label="Blades in the oven"
        value={step.blades ?? 1}
        onChange={(e) => onChange({ ...step, blades: Number(e.target.value) })}
      >
        {Array.from({ length: MOST_BLADES }, (_, i) => i + 1).map((n) => (
          <option key={n} value={n}>
            {n === 1 ? "one blade in" : `${n} blades in`}
          </option>
        ))}
      </Form.Select>
    </>
  );
}
