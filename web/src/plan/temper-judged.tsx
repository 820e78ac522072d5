import { useQuery } from "@tanstack/react-query";
import { Form } from "react-bootstrap";
import type { Light, Step, TemperColour, TemperSighting } from "../api/client";
import { queries } from "../api/queries";
import { TEMPER_CHIPS } from "../drawing/temper-chips";
import { Options } from "../fields/options";
import { useUnits } from "../quantity/units";
import { LIGHTS, TEMPER_COLOURS } from "../words/sightings";
import css from "./plan.module.css";

type Tempering = Extract<Step, { kind: "temper" | "torch_temper" }>;

/** A torch holds its heat about this long, s. */
export const TORCH_S = 30;

/** By what a temper is judged: an instrument, or the colour that it leaves. */
export function TemperJudged(props: {
  bladeId: string;
  step: Tempering;
  onChange: (step: Tempering) => void;
  error: (field: string) => string | undefined;
}) {
  const { step, onChange } = props;
  const { show } = useUnits();
  const hold_s = step.kind === "temper" ? step.hold_s : TORCH_S;
  const by = step.by ?? undefined;
  const colours = useQuery({ ...queries.temperColours(props.bladeId, hold_s), enabled: !!by }).data;
  const usual = by && colours?.find((c) => c.colour === by.colour)?.middle_c;
  const judge = (next: TemperSighting | undefined) => {
    const about = next && colours?.find((c) => c.colour === next.colour)?.middle_c;
    onChange({ ...step, by: next, temperature_c: about ?? step.temperature_c });
  };
  const wrong = ["by.colour", "by.light"].map(props.error).find(Boolean);
  return (
    <>
      <Form.Select
        aria-label="Tempered by"
        value={by ? "colour" : ""}
        onChange={(e) =>
          judge(e.target.value ? { colour: "dark_straw", light: "daylight" } : undefined)
        }
      >
        <option value="">by instrument</option>
        <option value="colour">by its colour</option>
      </Form.Select>
      {by && (
        <>
          <span
            className={css.chip}
            style={{ backgroundColor: TEMPER_CHIPS[by.colour] }}
            aria-hidden="true"
          />
          <Form.Select
            aria-label="Temper colour"
            value={by.colour}
            onChange={(e) => judge({ ...by, colour: e.target.value as TemperColour })}
          >
            <Options of={TEMPER_COLOURS} />
          </Form.Select>
          <Form.Select
            aria-label="Seen"
            value={by.light}
            onChange={(e) => judge({ ...by, light: e.target.value as Light })}
          >
            <Options of={LIGHTS} />
          </Form.Select>
          <span className="soft">
            {usual === undefined ? "" : `about ${show("temperature", usual)}`}
          </span>
        </>
      )}
      {wrong && (
        <span className="wrong" role="alert">
          {wrong}
        </span>
      )}
    </>
  );
}
