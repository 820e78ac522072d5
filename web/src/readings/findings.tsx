import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { v7 as uuid } from "uuid";
import { ApiError, api, type Blade, type Finding, type FindingRow, take } from "../api/client";
import { changed } from "../api/live";
import { Choice } from "../fields/choice";
import { Field } from "../fields/field";
import { Text } from "../fields/text";
import { useUnits } from "../quantity/units";
import { CHOICES, type Kind, OF_THE_STEEL, OFFERED, read, SECOND, TYPED } from "./finding-kinds";
import { FindingList } from "./finding-list";
import css from "./readings.module.css";

/** Mean height of each line that counts, mm. */
export function lineHeights(all: FindingRow[]): number[] {
  return all.flatMap(({ found, withdrawn_at }) =>
    found.kind === "line" && !withdrawn_at
      ? [found.places.reduce((sum, p) => sum + (p[1] ?? 0), 0) / found.places.length]
      : [],
  );
}

/** What to mind while it is found out, and what comes of it. */
function FindingCaution({ kind }: { kind: Kind }) {
  return (
    <>
      {kind === "etch" && (
        <p className="caution wide">
          Acids and iron salts: gloves, goggles, moving air, water beside you. Salt water on
          stainless gives off poisonous chromium compounds: not that. Follow the maker's sheet.
        </p>
      )}
      {kind === "trial" && (
        <p className="caution wide">Eye protection: a blade that is too hard sheds chips.</p>
      )}
      {kind === "scrap" && (
        <p className="soft wide">
          It goes off the rack and its firing is closed. Everything of it is kept and learned from.
        </p>
      )}
    </>
  );
}

/** What came of the blade besides tested hardness. */
export function Findings(props: {
  blade: Blade;
  /** The place pointed at on the drawing, as written. */
  pointed: string;
  onKept: () => void;
  kind: Kind;
  onKind: (kind: Kind) => void;
}) {
  const { blade, kind } = props;
  const client = useQueryClient();
  const { units } = useUnits();
  const [text, setText] = useState("");
  const [choice, setChoice] = useState("");
  const [second, setSecond] = useState("");
  const [warm, setWarm] = useState(false);
  const [skinOn, setSkinOn] = useState(false);
  const [note, setNote] = useState("");
  const [wrong, setWrong] = useState<string | null>(null);
  const keep = useMutation({
    mutationFn: (found: Finding) =>
      take(
        api.POST("/api/v1/blades/{id}/findings", {
          params: { path: { id: blade.id } },
          body: { id: uuid(), found, note },
        }),
      ),
    onSuccess: () => {
      setText("");
      setNote("");
      setWarm(false);
      setSkinOn(false);
      props.onKept();
      changed(client, "finding", "", blade.id);
    },
  });
  const problem = keep.error instanceof ApiError ? keep.error : null;
  const said = wrong ?? Object.values(problem?.fields ?? {})[0] ?? problem?.message;
  const typed = TYPED[kind];
  const first = CHOICES[kind];
  const other = SECOND[kind];
  const pick = (options: Record<string, string>, value: string) =>
    value in options ? value : (Object.keys(options)[0] ?? "");
  // What was pointed at stands where it would be typed.
  const written = (kind === "burn" || kind === "line") && text === "" ? props.pointed : text;
  return (
    <section className={css.findings}>
      <h2>What else came of it</h2>
      <form
        className="grid"
        aria-label="What else came of it"
        onSubmit={(e) => {
          e.preventDefault();
          const found = read(
            kind,
            {
              text: written,
              choice: first ? pick(first.options, choice) : "",
              second: other ? pick(other.options, second) : "",
              warm,
              skin_on: skinOn,
            },
            blade.length_mm,
            units,
          );
          setWrong(typeof found === "string" ? found : null);
          if (typeof found !== "string") keep.mutate(found);
        }}
      >
        <Choice
          label="Found"
          value={kind}
          options={OFFERED}
          onChange={(k) => {
            props.onKind(k as Kind);
            setWrong(null);
            keep.reset();
          }}
        />
        {first && (
          <Choice
            label={first.label}
            value={pick(first.options, choice)}
            options={first.options}
            onChange={setChoice}
          />
        )}
        {other && (
          <Choice
            label={other.label}
            value={pick(other.options, second)}
            options={other.options}
            onChange={setSecond}
          />
        )}
        {typed && (
          <Field id="found" label={`${typed.label}${typed.lengths ? `, ${units.length}` : ""}`}>
            {() => (
              <Form.Control
                className="num"
                autoComplete="off"
                value={written}
                isInvalid={!!said}
                aria-describedby="found-said"
                onChange={(e) => {
                  setText(e.target.value);
                  setWrong(null);
                }}
              />
            )}
          </Field>
        )}
        {OF_THE_STEEL.includes(kind) && (
          <div className="field row-of">
            <Form.Check
              id="found-warm"
              type="checkbox"
              label="Still warm"
              checked={warm}
              onChange={(e) => setWarm(e.target.checked)}
            />
            <Form.Check
              id="found-skin"
              type="checkbox"
              label="Skin still on"
              checked={skinOn}
              onChange={(e) => setSkinOn(e.target.checked)}
            />
          </div>
        )}
        <Text label="Remark" max={500} value={note} onChange={setNote} />
        <FindingCaution kind={kind} />
        <div className="wide row-of">
          <Button type="submit" disabled={keep.isPending}>
            Keep it
          </Button>
          <span
            id="found-said"
            className={said ? "wrong" : "soft"}
            role={said ? "alert" : undefined}
          >
            {said ??
              (warm || skinOn
                ? "Kept, but not counted: warm steel and the skin say little of the steel under it."
                : kind === "crack"
                  ? "A sound blade teaches as well."
                  : typed?.help)}
          </span>
        </div>
      </form>
      <FindingList blade={blade} />
    </section>
  );
}
