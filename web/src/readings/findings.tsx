import { useQueryClient } from "@tanstack/react-query";
import { Button, Form } from "react-bootstrap";
import { type UseFormReturn, useController } from "react-hook-form";
import { v7 as uuid } from "uuid";
import { api, type Blade, type FindingRow, take } from "../api/client";
import { changed } from "../api/live";
import { Choice } from "../fields/choice";
import { Field } from "../fields/field";
import { CheckField, TextField, useSavedForm } from "../fields/saved-form";
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
      {(kind === "skin_off" || kind === "polish") && (
        <p className="caution wide">
          Grinding dust harms the lungs: mask and moving air, or grind wet. That of stainless
          carries chromium and nickel. Sparks away from oily rags.
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

const EMPTY = { text: "", choice: "", second: "", warm: false, skin_on: false, note: "" };

/** The one that was chosen, or the first of those offered. */
const picked = (offered: { options: Record<string, string> } | undefined, value: string) =>
  !offered || value in offered.options ? value : (Object.keys(offered.options)[0] ?? "");

/** What is typed of a finding; what was pointed at stands where it would be typed. */
function Typed(props: { form: UseFormReturn<typeof EMPTY>; kind: Kind; pointed: string }) {
  const { form, kind, pointed } = props;
  const { units } = useUnits();
  const { field } = useController({ control: form.control, name: "text" });
  const typed = TYPED[kind];
  if (!typed) return null;
  return (
    <Field id="found" label={`${typed.label}${typed.lengths ? `, ${units.length}` : ""}`}>
      {() => (
        <Form.Control
          className="num"
          autoComplete="off"
          isInvalid={!!form.formState.errors.root}
          aria-describedby="found-said"
          value={field.value || pointed}
          onChange={(e) => {
            field.onChange(e);
            form.clearErrors();
          }}
        />
      )}
    </Field>
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
  const pointed = kind === "burn" || kind === "line" ? props.pointed : "";
  const { form, run, submit, wrong } = useSavedForm({
    values: EMPTY,
    save: async ({ note, ...said }) => {
      const text = said.text || pointed;
      const choice = picked(CHOICES[kind], said.choice);
      const second = picked(SECOND[kind], said.second);
      const found = read(kind, { ...said, text, choice, second }, blade.length_mm, units);
      if (typeof found === "string") throw new Error(found);
      return take(
        api.POST("/api/v1/blades/{id}/findings", {
          params: { path: { id: blade.id } },
          body: { id: uuid(), found, note },
        }),
      );
    },
    onSaved: (_, form) => {
      const { choice, second } = form.getValues();
      form.reset({ ...EMPTY, choice, second });
      props.onKept();
      changed(client, "finding", "", blade.id);
    },
  });
  const [warm, skinOn] = form.watch(["warm", "skin_on"]);
  const choice = (name: "choice" | "second", offered: (typeof CHOICES)[Kind]) =>
    offered && (
      <Choice
        label={offered.label}
        value={picked(offered, form.watch(name))}
        options={offered.options}
        onChange={(value) => form.setValue(name, value)}
      />
    );
  return (
    <section className={css.findings}>
      <h2>What else came of it</h2>
      <form className="grid" aria-label="What else came of it" onSubmit={submit}>
        <Choice
          label="Found"
          value={kind}
          options={OFFERED}
          onChange={(k) => {
            props.onKind(k as Kind);
            form.clearErrors();
          }}
        />
        {choice("choice", CHOICES[kind])}
        {choice("second", SECOND[kind])}
        <Typed form={form} kind={kind} pointed={pointed} />
        {OF_THE_STEEL.includes(kind) && (
          <div className="field row-of">
            <CheckField form={form} name="warm" label="Still warm" />
            <CheckField form={form} name="skin_on" label="Skin still on" />
          </div>
        )}
        <TextField form={form} name="note" label="Remark" max={500} />
        <FindingCaution kind={kind} />
        <div className="wide row-of">
          <Button type="submit" disabled={run.isPending}>
            Keep it
          </Button>
          <span
            id="found-said"
            className={wrong ? "wrong" : "soft"}
            role={wrong ? "alert" : undefined}
          >
            {wrong ??
              (warm || skinOn
                ? "Kept, but not counted: warm steel and the skin say little of the steel under it."
                : kind === "crack"
                  ? "A sound blade teaches as well."
                  : TYPED[kind]?.help)}
          </span>
        </div>
      </form>
      <FindingList blade={blade} />
    </section>
  );
}
