import { Form } from "react-bootstrap";
import type { Furnace, Step } from "../api/client";
import { useStations } from "../api/queries";
import { Options } from "../fields/options";
import { QuantityInput } from "../quantity/quantity-input";
import { BEDS, COLD_BATHS } from "../words/manner";
import { LOOKS, PARTS } from "../words/names";
import { TEMPERATURE, TIME, timeOf, withTemperature, withTime } from "./edit-plan";
import { JudgedBy } from "./judged-by";
import css from "./plan.module.css";
import { TemperJudged } from "./temper-judged";
import { TemperManner } from "./temper-manner";

/** Fires that a blade is hardened from. */
const FIRES: Record<Exclude<Furnace, "oven">, string> = {
  kiln: "kiln",
  forge: "open forge",
  pipe: "pipe in the forge",
  charcoal: "charcoal fire",
};

/** What can be set of a step that is no quench. */
export function StepFields(props: {
  bladeId: string;
  step: Exclude<Step, { kind: "quench" }>;
  onChange: (step: Step) => void;
  error: (field: string) => string | undefined;
}) {
  const { step, onChange, error } = props;
  const stations = useStations();
  const kinds = step.kind === "temper" ? ["oven", "kiln"] : ["kiln", "forge"];
  const mine = (stations.data ?? []).filter((s) => kinds.includes(s.kind));
  return (
    <>
      {"temperature_c" in step && !("by" in step && step.by) && (
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
      {(step.kind === "normalize" ||
        step.kind === "anneal" ||
        step.kind === "refine" ||
        step.kind === "stress_relief" ||
        step.kind === "preheat" ||
        step.kind === "austenitize") && (
        <JudgedBy bladeId={props.bladeId} step={step} onChange={onChange} error={error} />
      )}
      {(step.kind === "temper" || step.kind === "torch_temper") && (
        <TemperJudged bladeId={props.bladeId} step={step} onChange={onChange} error={error} />
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
          <Options of={LOOKS} />
        </Form.Select>
      )}
      {step.kind === "torch_temper" && (
        <Form.Select
          aria-label="Part"
          value={step.part}
          onChange={(e) => onChange({ ...step, part: e.target.value as typeof step.part })}
        >
          <Options of={PARTS} />
        </Form.Select>
      )}
      {step.kind === "anneal" && (
        <Form.Select
          aria-label="Cools"
          value={step.bed ?? ""}
          onChange={(e) =>
            onChange({ ...step, bed: (e.target.value as typeof step.bed) || undefined })
          }
        >
          <Options of={BEDS} placeholder="cools as usual" />
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
          <Form.Select
            aria-label="Cold by"
            value={step.bath ?? ""}
            onChange={(e) =>
              onChange({ ...step, bath: (e.target.value as typeof step.bath) || undefined })
            }
          >
            <Options of={COLD_BATHS} placeholder="cold by anything" />
          </Form.Select>
          {step.bath === "dry_ice_acetone" && (
            <span className="caution">
              Acetone burns at any spark and its vapour creeps: no flame in the room, moving air, no
              plastic. Alcohol does the same with less danger.
            </span>
          )}
        </>
      )}
      {step.kind === "austenitize" && <span className="soft">from back at heat</span>}
      {step.kind === "temper" && (
        <span className={css.stage}>
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
          <TemperManner step={step} onChange={onChange} error={error} />
        </span>
      )}
      {step.kind === "austenitize" && (
        <Form.Select
          aria-label="Kind of fire"
          value={step.fire ?? ""}
          onChange={(e) =>
            onChange({ ...step, fire: (e.target.value as typeof step.fire) || undefined })
          }
        >
          <Options of={FIRES} placeholder="fire as the station is" />
        </Form.Select>
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
  );
}
