import { Form } from "react-bootstrap";
import type { Medium, Step } from "../api/client";
import { useStations } from "../api/queries";
import { Field } from "../fields/field";
import { Options } from "../fields/options";
import { QuantityInput } from "../quantity/quantity-input";
import { useUnits } from "../quantity/units";
import { ENTRIES, manner, PLATE_METALS } from "../words/manner";
import { BathHelp } from "./bath-help";
import css from "./plan.module.css";

type Stage = Extract<Step, { kind: "quench" }>["stages"][number];
type Plates = NonNullable<Stage["plates"]>;

/** An inch of aluminium: what physics takes plates for when nothing is said. */
const USUAL: Plates = { metal: "aluminium", thickness_mm: 25.4 };
/** How far in, to start from, mm. */
const DEPTH_MM = 15;

const HOW_FAR = { whole: "the whole blade", edge: "the edge alone", tip: "from the point" };

/** Media that a blade is dipped into. */
const isBath = (medium: Medium) =>
  medium !== "plates" && medium !== "forced_air" && medium !== "still_air";

/** How it goes into one bath, how far, into how much of it; or between which plates. */
export function StageManner(props: {
  stage: Stage;
  number: number;
  onChange: (part: Partial<Stage>) => void;
  error: (field: string) => string | undefined;
}) {
  const { stage, number, onChange, error } = props;
  const { say } = useUnits();
  const stations = useStations();
  const tanks = (stations.data ?? []).filter(
    (s) =>
      s.kind === "tank" && s.medium === stage.medium && (!s.retired_at || s.id === stage.tank_id),
  );
  const tank = tanks.find((t) => t.id === stage.tank_id)?.name;
  const far = stage.edge_depth_mm ? "edge" : stage.tip_length_mm ? "tip" : "whole";
  const said = manner({ kind: "quench", stages: [{ ...stage, agitation: undefined }] }, say);
  const plates = stage.plates ?? USUAL;
  const change = (part: Partial<Plates>) => onChange({ plates: { ...plates, ...part } });
  return (
    <details className={css.manner}>
      <summary>{[tank, said].filter(Boolean).join(", ") || "how it goes in"}</summary>
      <div>
        {isBath(stage.medium) && (
          <>
            {tanks.length > 0 && (
              <Field label="Tank" error={error(`stages[${number}].tank_id`)}>
                {(tie) => (
                  <Form.Select
                    {...tie}
                    value={stage.tank_id ?? ""}
                    onChange={(e) => onChange({ tank_id: e.target.value || undefined })}
                  >
                    <option value="">not said</option>
                    {tanks.map((t) => (
                      <option key={t.id} value={t.id}>
                        {t.name}
                        {t.curve ? ", measured" : ""}
                      </option>
                    ))}
                  </Form.Select>
                )}
              </Field>
            )}
            <Field label="Goes in">
              {(tie) => (
                <Form.Select
                  {...tie}
                  value={stage.entry ?? ""}
                  onChange={(e) =>
                    onChange({ entry: (e.target.value as Stage["entry"]) || undefined })
                  }
                >
                  <Options of={ENTRIES} placeholder="as usual" />
                </Form.Select>
              )}
            </Field>
            <Field label="How far">
              {(tie) => (
                <Form.Select
                  {...tie}
                  value={far}
                  onChange={(e) =>
                    onChange({
                      edge_depth_mm: e.target.value === "edge" ? DEPTH_MM : undefined,
                      tip_length_mm: e.target.value === "tip" ? 4 * DEPTH_MM : undefined,
                    })
                  }
                >
                  <Options of={HOW_FAR} />
                </Form.Select>
              )}
            </Field>
            {far === "edge" && (
              <QuantityInput
                label="Deep"
                kind="length"
                value={stage.edge_depth_mm ?? DEPTH_MM}
                range={[0.01, 1000]}
                error={error(`stages[${number}].edge_depth_mm`)}
                onChange={(edge_depth_mm) => onChange({ edge_depth_mm })}
              />
            )}
            {far === "tip" && (
              <QuantityInput
                label="From the point"
                kind="length"
                value={stage.tip_length_mm ?? 4 * DEPTH_MM}
                range={[0.01, 1000]}
                error={error(`stages[${number}].tip_length_mm`)}
                onChange={(tip_length_mm) => onChange({ tip_length_mm })}
              />
            )}
            <BathHelp stage={stage} number={number} onChange={onChange} error={error} />
          </>
        )}
        {stage.medium === "plates" && (
          <>
            <Field label="Plates of">
              {(tie) => (
                <Form.Select
                  {...tie}
                  value={plates.metal}
                  onChange={(e) => change({ metal: e.target.value as Plates["metal"] })}
                >
                  <Options of={PLATE_METALS} />
                </Form.Select>
              )}
            </Field>
            <QuantityInput
              label="Each thick"
              kind="length"
              value={plates.thickness_mm}
              range={[2, 200]}
              error={error(`stages[${number}].plates.thickness_mm`)}
              onChange={(thickness_mm) => change({ thickness_mm })}
            />
            <Form.Check
              id={`slab-${number}`}
              label="lies on one slab, air above"
              checked={plates.one_slab ?? false}
              onChange={(e) => change({ one_slab: e.target.checked })}
            />
            <Form.Check
              id={`air-${number}`}
              label="air blown along"
              checked={plates.with_air ?? false}
              onChange={(e) => change({ with_air: e.target.checked })}
            />
          </>
        )}
      </div>
    </details>
  );
}
