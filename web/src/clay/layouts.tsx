import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { type Blade, type Clay, type Plan, type Prediction, problemOf } from "../api/client";
import { Options } from "../fields/options";
import { QuantityInput } from "../quantity/quantity-input";
import { useUnits } from "../quantity/units";
import { found as foundClay } from "../words/advice";
import { CLAYS } from "../words/names";
import css from "./clay.module.css";
import { withFace } from "./faces";
import { bent, heightAt, type Place, SET_AT } from "./line";
import { laid, TEMPLATES, type Template } from "./templates";
import type { Brush } from "./tools";
import { type ClayDraft, useFoundClay } from "./use-clay";

/** A layout to start from. */
function StartFrom(props: {
  blade: Blade;
  draft: ClayDraft;
  brush: Brush;
  from: number;
  onFrom: (mm: number) => void;
}) {
  const { blade, draft, brush, from, onFrom } = props;
  const [template, setTemplate] = useState<Template>("even");
  const sizes = { outline: blade.outline, length: blade.length_mm, width: blade.width_mm };
  const lay = (face: Parameters<typeof withFace>[2]) =>
    draft.change((now) => ({ ...now, clay: withFace(now.clay, brush.right, face) }));
  return (
    <fieldset>
      <legend>Start from</legend>
      <Form.Select
        aria-label="Template"
        value={template}
        onChange={(e) => setTemplate(e.target.value as Template)}
      >
        <Options of={TEMPLATES} />
      </Form.Select>
      <QuantityInput
        label="Begins above the edge"
        kind="length"
        value={from}
        range={[0, 300]}
        onChange={onFrom}
      />
      <Button
        variant="outline-primary"
        onClick={() => lay(laid(template, { ...sizes, from, thickness: brush.thickness }))}
      >
        Lay it on
      </Button>
      <Button variant="link" onClick={() => lay({ strokes: [] })}>
        Wipe the face bare
      </Button>
    </fieldset>
  );
}

/** What the clay is mixed of: how well it keeps heat in. */
function MixedOf({ draft }: { draft: ClayDraft }) {
  const { clay } = draft.now;
  const of = (mix: Clay["mix"]) => draft.change((now) => ({ ...now, clay: { ...now.clay, mix } }));
  return (
    <fieldset>
      <legend>Mixed of</legend>
      <Form.Select
        aria-label="Mixed of"
        className={css["mixed-of"]}
        value={clay.mix}
        onChange={(e) => of(e.target.value as Clay["mix"])}
      >
        <Options of={CLAYS} />
      </Form.Select>
    </fieldset>
  );
}

/** The wanted line by numbers. */
function WantedLine({ blade, draft, from }: { blade: Blade; draft: ClayDraft; from: number }) {
  const { wanted } = draft.now;
  const length = blade.length_mm;
  const want = (to: Place[]) => draft.change((now) => ({ ...now, wanted: to }));
  return (
    <fieldset>
      <legend>Line you want</legend>
      {Object.entries(SET_AT).map(([name, share]) => (
        <QuantityInput
          key={name}
          label={`At the ${name}`}
          kind="length"
          value={Math.round(10 * (heightAt(wanted, share * length) ?? from)) / 10}
          range={[0.5, 300]}
          onChange={(height) => want(bent(wanted, { share, height, length, from }))}
        />
      ))}
      <Button variant="link" disabled={wanted.length === 0} onClick={() => want([])}>
        No line
      </Button>
    </fieldset>
  );
}

/** Looks for the clay that gives the wanted line. */
function FindClay(props: { blade: Blade; plan: Plan; draft: ClayDraft; brush: Brush }) {
  const { blade, plan, draft, brush } = props;
  const { say } = useUnits();
  const [thinnest_mm, setThinnest] = useState(0.8);
  const [thickest_mm, setThickest] = useState(4);
  const { wanted } = draft.now;
  const search = useFoundClay(blade, plan, draft.now.clay.mix, (clay) =>
    draft.change((now) => ({ ...now, clay })),
  );
  const brush_mm = Math.min(40, Math.max(2, brush.width));
  return (
    <>
      <fieldset>
        <legend>Clay for it</legend>
        <QuantityInput
          label="Thinnest"
          kind="length"
          value={thinnest_mm}
          range={[0.1, 10]}
          onChange={setThinnest}
        />
        <QuantityInput
          label="Thickest"
          kind="length"
          value={thickest_mm}
          range={[0.1, 10]}
          onChange={setThickest}
        />
        <Button
          disabled={wanted.length === 0 || search.isPending}
          onClick={() => search.mutate({ wanted, thinnest_mm, thickest_mm, brush_mm })}
        >
          {search.isPending ? "Looking…" : "Find the clay"}
        </Button>
      </fieldset>
      <p className="fine" aria-live="polite">
        {search.data && foundClay(search.data, say)}
        {search.error ? problemOf(search.error) : ""}
      </p>
    </>
  );
}

/** How much to mix, and how long it dries. */
function Mix({ lay }: { lay: NonNullable<Prediction["clay"]> }) {
  const { show, about } = useUnits();
  const more = lay.left_more_percent;
  const letsGo = lay.lets_go ?? 0;
  const to = (seconds: number, step: number) => show("time", Math.round(seconds / step) * step);
  return (
    <p className="fine">
      Mix {Math.ceil(lay.mix_g / 5) * 5} g of clay, a quarter of it to spare. Thickest{" "}
      {about(lay.thickest_mm)}: dry {to(lay.dry_air_s, 3600)} in the air, or{" "}
      {to(lay.dry_oven_s, 900)} at {show("temperature", 200)}.
      {letsGo >= 0.1 &&
        ` About ${Math.round(10 * letsGo)} in 10 coats as thick as this, dried as the plan has it, crack or let go: two thin coats hold better than one.`}
      {Math.abs(more) >= 2 &&
        ` The ${more > 0 ? "left" : "right"} face carries ${Math.abs(Math.round(more))} % more: it pulls to one side.`}
    </p>
  );
}

function Sheets({ blade }: { blade: Blade }) {
  const { units } = useUnits();
  const sheet = (kind: string) =>
    `/api/v1/blades/${blade.id}/clay/sheet.${kind}?units=${units.length}`;
  return (
    <p className="fine">
      Print at 1:1:{" "}
      <a href={sheet("pdf")} target="_blank" rel="noreferrer">
        PDF
      </a>{" "}
      ·{" "}
      <a href={sheet("svg")} target="_blank" rel="noreferrer">
        SVG
      </a>
      .{" "}
      <span className={css["caution-in"]}>
        No clay dust in the breath; bone dry before the fire.
      </span>
    </p>
  );
}

/** Layouts by numbers: templates, the wanted line, the clay for it, and what the clay takes. */
export function ClayLayouts(props: {
  blade: Blade;
  plan: Plan;
  draft: ClayDraft;
  brush: Brush;
  lay: Prediction["clay"];
}) {
  const { blade, plan, draft, brush, lay } = props;
  const [from, setFrom] = useState(Math.round(blade.width_mm * 0.45));
  return (
    <div className={css["clay-rows"]}>
      <MixedOf draft={draft} />
      <StartFrom blade={blade} draft={draft} brush={brush} from={from} onFrom={setFrom} />
      <WantedLine blade={blade} draft={draft} from={from} />
      <FindClay blade={blade} plan={plan} draft={draft} brush={brush} />
      {lay && <Mix lay={lay} />}
      <Sheets blade={blade} />
    </div>
  );
}
