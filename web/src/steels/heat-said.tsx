import { Form } from "react-bootstrap";
import type { Glow, Light, Sighting } from "../api/client";
import { Options } from "../fields/options";
import { QuantityInput } from "../quantity/quantity-input";
import { GLOWS, LIGHTS, SIGNS } from "../words/sightings";

/** How hot a coupon was: shown by an instrument, or judged. */
export interface HeatSaid {
  temperature_c: number | null;
  by: Sighting | null;
}

export function HeatSaidInput({
  value,
  usual,
  onChange,
}: {
  value: HeatSaid;
  /** What an instrument is set to where nothing else is said, °C. */
  usual: number;
  onChange: (heat: HeatSaid) => void;
}) {
  const { by } = value;
  const judge = (by: Sighting) => onChange({ temperature_c: null, by });
  const pick = (sign: string) => {
    if (sign === "") onChange({ temperature_c: usual, by: null });
    else if (sign === "colour") judge({ sign: "colour", colour: "cherry", light: "dim" });
    else judge({ sign: sign as keyof typeof SIGNS });
  };
  return (
    <>
      <Form.Select
        aria-label="How hot"
        value={by?.sign ?? ""}
        onChange={(e) => pick(e.target.value)}
      >
        <option value="">by instrument</option>
        <option value="colour">by colour</option>
        <Options of={SIGNS} />
      </Form.Select>
      {!by && (
        <QuantityInput
          label="It was"
          kind="temperature"
          value={value.temperature_c}
          range={[650, 1100]}
          onChange={(t) => onChange({ temperature_c: t, by: null })}
        />
      )}
      {by?.sign === "colour" && (
        <>
          <Form.Select
            aria-label="Colour"
            value={by.colour}
            onChange={(e) => judge({ ...by, colour: e.target.value as Glow })}
          >
            <Options of={GLOWS} />
          </Form.Select>
          <Form.Select
            aria-label="Light"
            value={by.light}
            onChange={(e) => judge({ ...by, light: e.target.value as Light })}
          >
            <Options of={LIGHTS} />
          </Form.Select>
        </>
      )}
    </>
  );
}
