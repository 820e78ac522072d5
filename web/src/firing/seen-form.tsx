import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Form } from "react-bootstrap";
import type { Eyes, Firing, Glow, Light, Sighting, Step } from "../api/client";
import { queries, useSays, useStations } from "../api/queries";
import { Field } from "../fields/field";
import { chipOf } from "../plan/judged-by";
import { QuantityInput } from "../quantity/quantity-input";
import { useUnits } from "../quantity/units";
import { wrongWith } from "../stations/says";
import { GLOWS, LIGHTS, SIGNS } from "../words/sightings";
import css from "./firing.module.css";

/** The light at the fire, kept on this device. */
const LIGHT = "vatten.light";

/** Colours this far from the planned heat are not offered at once, °C. */
const NEAR_C = 150;

/** What was seen of a heat, with the thermocouple where one was read. */
export interface Seen {
  by: Sighting;
  temperature_c?: number;
}

/** True of a heat that an eye can judge. */
export const isHeat = (step: Step | undefined) =>
  step?.kind === "normalize" ||
  step?.kind === "anneal" ||
  step?.kind === "refine" ||
  step?.kind === "stress_relief" ||
  step?.kind === "preheat" ||
  step?.kind === "austenitize";

/** What the connected fire of a step says, °C; nothing where none is connected or it is silent. */
function useProbe(step: Step, now: number) {
  const says = useSays();
  const stations = useStations();
  const id = "station_id" in step ? step.station_id : undefined;
  const station = stations.data?.find((s) => s.id === id);
  const said = says.data?.find((s) => s.station_id === id);
  if (!station || !said || said.value == null) return null;
  if (wrongWith(said, station.kind, now)) return null;
  return { name: station.name, celsius: said.value };
}

/** The eye of the one who quenches: by name, else the only one. */
function eyeOf(eyes: Eyes | undefined, operator: string | null | undefined) {
  const all = eyes?.eyes ?? [];
  const mine = all.find((e) => e.name.toLowerCase() === operator?.toLowerCase());
  return (mine ?? (all.length === 1 ? all[0] : undefined))?.station_id ?? "";
}

/** Colours to choose from: the likely ones, and all on request. */
function Colours(props: {
  light: Light;
  near: number;
  eyes: Eyes | undefined;
  onPick: (colour: Glow) => void;
}) {
  const [all, setAll] = useState(false);
  const { light, near, eyes } = props;
  const seen = (eyes?.glow ?? []).filter((g) => g.light === light);
  const likely = seen.filter((g) => Math.abs(g.middle_c - near) < NEAR_C);
  const shown = all ? seen : likely;
  return (
    <>
      <fieldset className={css.colours}>
        <legend>It glows</legend>
        {shown.map((g) => (
          <button key={g.colour} type="button" onClick={() => props.onPick(g.colour)}>
            <span
              className={css.swatch}
              style={{ backgroundColor: chipOf(g.colour, light, eyes) }}
              aria-hidden="true"
            />
            {GLOWS[g.colour]}
          </button>
        ))}
        {!all && shown.length < seen.length && (
          <button type="button" onClick={() => setAll(true)}>
            another colour
          </button>
        )}
      </fieldset>
      {seen.length === 0 && (
        <p>The colours are not on this device yet: they come with the server.</p>
      )}
    </>
  );
}

/** Asks what a heat looks like: one press keeps it. */
export function SeenForm(props: {
  firing: Firing;
  step: Extract<Step, { temperature_c: number }>;
  now: number;
  /** The fire is at heat. */
  atHeat: boolean;
  onSeen: (seen: Seen) => void;
  onCancel: () => void;
}) {
  const { step, firing } = props;
  const { show } = useUnits();
  const eyes = useQuery(queries.eyes(firing.blade_id)).data;
  const probe = useProbe(step, props.now);
  const [light, setLight] = useState<Light>(
    () => (localStorage.getItem(LIGHT) as Light | null) ?? "dim",
  );
  // A fire that is set by instrument stands where it is set, once it is at heat.
  const judged = "by" in step && !!step.by;
  const [read, setRead] = useState<number | null>(() =>
    props.atHeat && !judged ? step.temperature_c : null,
  );
  const [picked, setPicked] = useState<string | null>(null);
  const eye = picked ?? eyeOf(eyes, firing.state.operator);
  const keep = (by: Sighting) =>
    props.onSeen({ by, temperature_c: probe?.celsius ?? read ?? undefined });
  return (
    <div className={css.say}>
      <fieldset className={`${css.colours} ${css["in-three"]}`}>
        <legend>Light</legend>
        {(Object.keys(LIGHTS) as Light[]).map((l) => (
          <button
            key={l}
            type="button"
            aria-pressed={l === light}
            onClick={() => {
              localStorage.setItem(LIGHT, l);
              setLight(l);
            }}
          >
            {LIGHTS[l]}
          </button>
        ))}
      </fieldset>
      <Colours
        light={light}
        near={step.temperature_c}
        eyes={eyes}
        onPick={(colour) =>
          keep({ sign: "colour", colour, light, ...(eye ? { eye_id: eye } : {}) })
        }
      />
      <fieldset className={css.colours}>
        <legend>Or</legend>
        {(Object.keys(SIGNS) as (keyof typeof SIGNS)[]).map((sign) => (
          <button key={sign} type="button" onClick={() => keep({ sign })}>
            {SIGNS[sign]}
          </button>
        ))}
      </fieldset>
      {probe ? (
        <p>
          {probe.name} says {show("temperature", probe.celsius)}: kept beside what you see.
        </p>
      ) : (
        <QuantityInput
          label="By instrument; empty where there is none"
          kind="temperature"
          value={read}
          range={[400, 1300]}
          onChange={setRead}
        />
      )}
      {eyes && eyes.eyes.length > 1 && (
        <Field label="Whose eye">
          {(tie) => (
            <Form.Select {...tie} value={eye} onChange={(e) => setPicked(e.target.value)}>
              <option value="">nobody's in particular</option>
              {eyes.eyes.map((e) => (
                <option key={e.station_id} value={e.station_id}>
                  {e.name}
                </option>
              ))}
            </Form.Select>
          )}
        </Field>
      )}
      <p className={css.dim}>
        Screens show colours as they can: go by the names.
        {eyes?.eyes.length === 0 &&
          " Add your eye under Stations, and each look beside a thermocouple teaches it."}
      </p>
      <div className={css.alt}>
        <button type="button" onClick={props.onCancel}>
          Never mind
        </button>
      </div>
    </div>
  );
}
