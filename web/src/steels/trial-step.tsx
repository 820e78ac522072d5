import { useState } from "react";
import { Button } from "react-bootstrap";
import type { TrialEntry, TrialView } from "../api/client";
import { QuantityInput } from "../quantity/quantity-input";
import { useUnits } from "../quantity/units";
import { sighting } from "../words/sightings";
import { guided } from "../words/trials";
import { Fracture, GRAINS } from "./fracture";
import { type HeatSaid, HeatSaidInput } from "./heat-said";
import css from "./steels.module.css";

type Filed = "skates" | "bites";

const COOLED = { oil: "In oil", water: "In water", air: "Left in air" } as const;

/** What was done and seen, in a sentence. */
export function sentence(e: TrialEntry, show: (kind: "temperature", v: number) => string): string {
  const file = e.file === "skates" ? "the file skates" : "the file bites";
  const heat =
    e.temperature_c != null ? show("temperature", e.temperature_c) : e.by ? sighting(e.by) : null;
  if (e.kind === "rung") {
    return `From ${heat}: ${file}, grain ${e.grain} (${GRAINS[e.grain - 1]})`;
  }
  const files =
    e.skated_hrc || e.bit_hrc
      ? ` (${e.skated_hrc ? `${e.skated_hrc} skates` : ""}${e.skated_hrc && e.bit_hrc ? ", " : ""}${e.bit_hrc ? `${e.bit_hrc} bites` : ""})`
      : "";
  return `${COOLED[e.bath]}${heat ? `, from ${heat}` : ""}: ${file}${files}`;
}

/** What the heat of a coupon is judged by until something else is said. */
function usualHeat({ stage, temperature_c }: TrialView["guide"]): HeatSaid {
  if (stage === "ladder") return { temperature_c: temperature_c ?? 800, by: null };
  if (stage === "air") {
    return { temperature_c: null, by: { sign: "colour", colour: "yellow", light: "dim" } };
  }
  return { temperature_c: null, by: { sign: "past_magnet" } };
}

function FileChoice({ value, onChange }: { value: Filed | ""; onChange: (f: Filed) => void }) {
  return (
    <fieldset className={css.filed}>
      <legend>The file</legend>
      {(["skates", "bites"] as const).map((f) => (
        <label key={f} className={value === f ? "on" : ""}>
          <input
            type="radio"
            name="filed"
            className="visually-hidden"
            checked={value === f}
            onChange={() => onChange(f)}
          />
          {f === "skates" ? "skates: hard" : "bites: soft"}
        </label>
      ))}
    </fieldset>
  );
}

/** The next step of a trial, and what to say of it. */
export function Step({
  trial,
  onAdd,
  busy,
}: {
  trial: TrialView;
  onAdd: (e: TrialEntry) => void;
  busy: boolean;
}) {
  const { guide } = trial;
  const { say } = useUnits();
  const told = guided(guide, say);
  const [file, setFile] = useState<Filed | "">("");
  const [skated, setSkated] = useState<number | null>(null);
  const [bit, setBit] = useState<number | null>(null);
  const [heat, setHeat] = useState(usualHeat(guide));
  const [grain, setGrain] = useState(0);
  const first = guide.stage !== "ladder";
  const bath = guide.stage === "water" || guide.stage === "air" ? guide.stage : "oil";
  const ready = file !== "" && (first || grain > 0);
  return (
    <section className={css["trial-step"]} aria-label="Next step">
      <h2>{told.ask}</h2>
      <p>{told.how}</p>
      {told.caution && <p className="caution">{told.caution}</p>}
      <div className="tool-row">
        <HeatSaidInput value={heat} usual={guide.temperature_c ?? 800} onChange={setHeat} />
        <FileChoice value={file} onChange={setFile} />
        {first && file === "skates" && (
          <>
            <QuantityInput
              label="Hardest that skated"
              kind="hardness"
              value={skated}
              range={[40, 67]}
              onChange={setSkated}
            />
            <QuantityInput
              label="Softest that bit"
              kind="hardness"
              value={bit}
              range={[40, 70]}
              onChange={setBit}
            />
          </>
        )}
      </div>
      {!first && (
        <fieldset className={css.fractures}>
          <legend>The fracture is most like</legend>
          {GRAINS.map((words, i) => (
            <label key={words} className={grain === i + 1 ? "on" : ""}>
              <input
                type="radio"
                name="grain"
                className="visually-hidden"
                checked={grain === i + 1}
                onChange={() => setGrain(i + 1)}
              />
              <Fracture grade={i + 1} />
              <span>
                {i + 1}: {words}
              </span>
            </label>
          ))}
        </fieldset>
      )}
      <Button
        disabled={!ready || busy}
        onClick={() => {
          if (file === "") return;
          onAdd(
            first
              ? {
                  kind: "first",
                  bath,
                  ...heat,
                  file,
                  skated_hrc: file === "skates" ? skated : null,
                  bit_hrc: file === "skates" ? bit : null,
                }
              : { kind: "rung", ...heat, file, grain },
          );
        }}
      >
        Keep it, go on
      </Button>
    </section>
  );
}
