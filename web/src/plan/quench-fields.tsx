import { Button, Form } from "react-bootstrap";
import type { Agitation, Medium, Step } from "../api/client";
import { Options } from "../fields/options";
import { QuantityInput } from "../quantity/quantity-input";
import { MEDIA } from "../words/names";
import css from "./plan.module.css";
import { StageManner } from "./stage-manner";

type Quench = Extract<Step, { kind: "quench" }>;

const WATER: Medium[] = ["water", "brine"];
/** Media in which movement counts. */
const MOVED: Medium[] = [
  ...WATER,
  "fast_oil",
  "vegetable_oil",
  "medium_oil",
  "slow_oil",
  "used_engine_oil",
  "warm_oil",
  "salt",
  "forced_air",
];
const MOVEMENTS: Record<Agitation, string> = {
  still: "held still",
  moved: "moved",
  strong: "stirred hard",
};
/** Time in air on the way from the fire when nothing is said, s; as the core has it. */
export const USUAL_TRANSFER_S = 2;

/** Usual bath temperature of a medium, °C. */
export function usualBath(medium: Medium): number {
  if (WATER.includes(medium)) return 25;
  if (medium === "warm_oil") return 150;
  if (medium === "salt") return 220;
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
            {i === 0 && (
              <>
                <QuantityInput
                  label="Way from the fire"
                  hideLabel
                  kind="time"
                  value={stage.transfer_s ?? USUAL_TRANSFER_S}
                  range={[0, 60]}
                  error={error(`stages[${i}].transfer_s`)}
                  onChange={(transfer_s) => change({ transfer_s })}
                />
                {"in air, then "}
              </>
            )}
            {i > 0 && "then "}
            <Form.Select
              aria-label={`Medium ${i + 1}`}
              value={stage.medium}
              onChange={(e) => {
                const medium = e.target.value as Medium;
                change({ medium, bath_c: usualBath(medium), tank_id: undefined });
              }}
            >
              <Options of={MEDIA} />
            </Form.Select>
            {MOVED.includes(stage.medium) && (
              <Form.Select
                aria-label={`Movement ${i + 1}`}
                value={stage.agitation ?? "moved"}
                onChange={(e) => change({ agitation: e.target.value as Agitation })}
              >
                <Options of={MOVEMENTS} />
              </Form.Select>
            )}
            <QuantityInput
              label={`Bath ${i + 1}`}
              hideLabel
              kind="temperature"
              value={stage.bath_c}
              range={[-20, 600]}
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
            <StageManner stage={stage} number={i} onChange={change} error={error} />
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
            // The last has no end; all else of it stays.
            if (last) kept[kept.length - 1] = { ...last, for_s: undefined };
            onChange({ ...step, stages: kept });
          }}
        >
          drop the last
        </Button>
      )}
    </>
  );
}
