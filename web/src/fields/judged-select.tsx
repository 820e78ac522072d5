import type { ReactNode } from "react";
import { Form } from "react-bootstrap";
import type { Glow, Light, Sighting } from "../api/client";
import { GLOWS, LIGHTS, SIGNS } from "../words/sightings";
import { Options } from "./options";

/** By what a heat is judged: an instrument (none), a colour in a light, or the magnet. */
export function JudgedSelect(props: {
  label: string;
  by: Sighting | null | undefined;
  onJudge: (by: Sighting | undefined) => void;
  /** Before the colour, as a chip of it. */
  before?: ReactNode;
  /** After the light, as whose eye it is. */
  after?: ReactNode;
}) {
  const { by, onJudge } = props;
  const pick = (sign: string) => {
    if (sign === "") onJudge(undefined);
    else if (sign === "colour") onJudge({ sign: "colour", colour: "cherry", light: "dim" });
    else onJudge({ sign: sign as keyof typeof SIGNS });
  };
  return (
    <>
      <Form.Select
        aria-label={props.label}
        value={by?.sign ?? ""}
        onChange={(e) => pick(e.target.value)}
      >
        <option value="">by instrument</option>
        <option value="colour">by colour</option>
        <Options of={SIGNS} />
      </Form.Select>
      {by?.sign === "colour" && (
        <>
          {props.before}
          <Form.Select
            aria-label="Colour"
            value={by.colour}
            onChange={(e) => onJudge({ ...by, colour: e.target.value as Glow })}
          >
            <Options of={GLOWS} />
          </Form.Select>
          <Form.Select
            aria-label="Light"
            value={by.light}
            onChange={(e) => onJudge({ ...by, light: e.target.value as Light })}
          >
            <Options of={LIGHTS} />
          </Form.Select>
          {props.after}
        </>
      )}
    </>
  );
}
