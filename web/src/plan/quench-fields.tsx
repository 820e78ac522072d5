import { Button, Form } from "react-bootstrap";
import type { Medium, Step } from "../api/client";
import { Options } from "../fields/options";
import { QuantityInput } from "../quantity/quantity-input";
import { MEDIA } from "../words/names";
import css from "./plan.module.css";

type Quench = Extract<Step, { kind: "quench" }>;

const WATER: Medium[] = ["water", "brine"];

/** Usual bath temperature of a medium, °C. */
function bath(medium: Medium): number {
  if (WATER.includes(medium)) return 25;
  if (medium === "warm_oil") return 150;
  return medium.endsWith("oil") ? 50 : 20;
}

/** The media of a quench, one after another. */
export function QuenchFields(props: {
  step: Quench;
  onChange: (step: Quench) => void;
  error: (field: string) => string | undefined;
}) {
  const { step, onChange, error } = props;
  return (
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
          <span className={css.stage} key={i}>
            {i > 0 && "then "}
            <Form.Select
              aria-label={`Medium ${i + 1}`}
              value={stage.medium}
              onChange={(e) => {
                const medium = e.target.value as Medium;
                change({ medium, bath_c: bath(medium) });
              }}
            >
              <Options of={MEDIA} />
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
  );
}
