import { useQuery } from "@tanstack/react-query";
import { Form } from "react-bootstrap";
import type { Eyes, Glow, Light, Sighting, Step } from "../api/client";
import { queries } from "../api/queries";
import { JudgedSelect } from "../fields/judged-select";
import { useUnits } from "../quantity/units";
import css from "./plan.module.css";

type Heat = Extract<
  Step,
  { kind: "austenitize" | "normalize" | "anneal" | "refine" | "stress_relief" | "preheat" }
>;

/** How hot a sighting usually is, °C; none before that is known. */
export function usualOf(by: Sighting, eyes: Eyes | undefined): number | null {
  if (by.sign !== "colour") {
    return eyes?.signs.find((s) => s.sign.sign === by.sign)?.about.middle_c ?? null;
  }
  const seen = eyes?.glow.find((g) => g.colour === by.colour && g.light === by.light);
  return seen?.middle_c ?? null;
}

/** What a colour in a light looks like, as far as a screen can show it. */
export function chipOf(colour: Glow, light: Light, eyes: Eyes | undefined): string {
  const seen = eyes?.glow.find((g) => g.colour === colour && g.light === light);
  return seen ? `rgb(${seen.rgb.join(" ")})` : "transparent";
}

/** By what the heat of a step is judged: an instrument, a colour, or the magnet. */
export function JudgedBy(props: {
  bladeId: string;
  step: Heat;
  onChange: (step: Step) => void;
  error: (field: string) => string | undefined;
}) {
  const { step, onChange } = props;
  const { show } = useUnits();
  const eyes = useQuery(queries.eyes(props.bladeId)).data;
  const by = step.by ?? undefined;
  const judge = (next: Sighting | undefined) => {
    const usual = next ? usualOf(next, eyes) : null;
    const temperature_c = usual === null ? step.temperature_c : Math.round(usual);
    onChange({ ...step, by: next, temperature_c });
  };
  const wrong = ["by.sign", "by.colour", "by.light", "by.eye_id"].map(props.error).find(Boolean);
  return (
    <>
      <JudgedSelect
        label="Judged by"
        by={by}
        onJudge={judge}
        before={
          by?.sign === "colour" && (
            <span
              className={css.chip}
              style={{ backgroundColor: chipOf(by.colour, by.light, eyes) }}
              aria-hidden="true"
            />
          )
        }
        after={
          by?.sign === "colour" &&
          eyes &&
          eyes.eyes.length > 0 && (
            <Form.Select
              aria-label="Whose eye"
              value={by.eye_id ?? ""}
              onChange={(e) => judge({ ...by, eye_id: e.target.value || undefined })}
            >
              <option value="">any eye</option>
              {eyes.eyes.map((eye) => (
                <option key={eye.station_id} value={eye.station_id}>
                  {eye.name}
                </option>
              ))}
            </Form.Select>
          )
        }
      />
      {by && <span className="soft">about {show("temperature", step.temperature_c)}</span>}
      {wrong && (
        <span className="wrong" role="alert">
          {wrong}
        </span>
      )}
    </>
  );
}
