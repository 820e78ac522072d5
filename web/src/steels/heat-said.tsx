import type { Sighting } from "../api/client";
import { JudgedSelect } from "../fields/judged-select";
import { QuantityInput } from "../quantity/quantity-input";

/** How hot a coupon was: shown by an instrument, or judged. */
export interface HeatSaid {
  temperature_c: number | null;
  by: Sighting | null;
}

export function HeatSaidInput(props: {
  value: HeatSaid;
  /** What an instrument is set to where nothing else is said, °C. */
  usual: number;
  onChange: (heat: HeatSaid) => void;
}) {
  const { value, usual, onChange } = props;
  return (
    <>
      <JudgedSelect
        label="How hot"
        by={value.by}
        onJudge={(by) =>
          onChange(by ? { temperature_c: null, by } : { temperature_c: usual, by: null })
        }
      />
      {!value.by && (
        <QuantityInput
          label="It was"
          kind="temperature"
          value={value.temperature_c}
          range={[650, 1100]}
          onChange={(t) => onChange({ temperature_c: t, by: null })}
        />
      )}
    </>
  );
}
