import { Button, Form } from "react-bootstrap";
import { type Bar, type Layer, problemOf } from "../api/client";
import { ConflictNotice } from "../draft/conflict-notice";
import { Choice } from "../fields/choice";
import { Options } from "../fields/options";
import { Text } from "../fields/text";
import { QuantityInput } from "../quantity/quantity-input";
import {
  type BarFormState,
  CONDITIONS,
  ROLES,
  useBarForm,
  type Written,
  written,
} from "./bar-draft";
import { ElementFields } from "./element-fields";
import { Meeting } from "./meeting";
import { useSteelOptions } from "./steel-options";
import css from "./steels.module.css";

/** What it is called, what it is of, and how large it is. */
function BarFields({ now, set, fields }: BarFormState) {
  const steels = useSteelOptions();
  const size = (part: Partial<Bar["size"]>) => set({ size: { ...now.size, ...part } });
  return (
    <div className="grid">
      <Text
        label="Bar"
        max={60}
        value={now.name}
        error={fields.name}
        onChange={(name) => set({ name })}
      />
      {now.layers.length === 0 && (
        <Choice
          label="Steel"
          value={now.steel}
          options={steels}
          error={fields.steel}
          onChange={(steel) => set({ steel })}
        />
      )}
      <Choice
        label="It came"
        value={now.condition}
        options={CONDITIONS}
        onChange={(c) => set({ condition: c as Bar["condition"] })}
      />
      <QuantityInput
        label="Width"
        kind="length"
        value={now.size.width_mm}
        range={[3, 500]}
        error={fields["size.width_mm"]}
        onChange={(width_mm) => size({ width_mm })}
      />
      <QuantityInput
        label="Thickness"
        kind="length"
        value={now.size.thickness_mm}
        range={[0.5, 60]}
        error={fields["size.thickness_mm"]}
        onChange={(thickness_mm) => size({ thickness_mm })}
      />
      <QuantityInput
        label="Length"
        kind="length"
        value={now.size.length_mm}
        range={[10, 10_000]}
        error={fields["size.length_mm"]}
        onChange={(length_mm) =>
          size(
            now.version === 0
              ? { length_mm, left_mm: length_mm }
              : { length_mm, left_mm: Math.min(now.size.left_mm, length_mm) },
          )
        }
      />
      <QuantityInput
        label="Left of it"
        kind="length"
        value={now.size.left_mm}
        range={[0, 10_000]}
        error={fields["size.left_mm"]}
        onChange={(left_mm) => size({ left_mm })}
      />
      <Text
        label="Remark"
        max={500}
        value={now.note}
        error={fields.note}
        onChange={(note) => set({ note })}
      />
    </div>
  );
}

/** The steels it is made of, where there are several. */
function LayerFields({ now, set, fields }: BarFormState) {
  const steels = useSteelOptions();
  const setLayer = (i: number, part: Partial<Layer>) =>
    set({ layers: now.layers.map((l, k) => (k === i ? { ...l, ...part } : l)) });
  const more: Layer[] =
    now.layers.length === 0
      ? [
          { role: "edge", steel: now.steel },
          { role: "cladding", steel: "1018" },
        ]
      : [{ role: "core", steel: now.steel }];
  return (
    <fieldset>
      <legend className="small-head">Layers</legend>
      {now.layers.map((layer, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: layers have no identity but their order
        <div className="tool-row" key={i}>
          <Form.Select
            aria-label={`Role of layer ${i + 1}`}
            value={layer.role}
            onChange={(e) => setLayer(i, { role: e.target.value as Layer["role"] })}
          >
            <Options of={ROLES} />
          </Form.Select>
          <Form.Select
            aria-label={`Steel of layer ${i + 1}`}
            value={layer.steel}
            isInvalid={!!fields[`layers[${i}].steel`]}
            aria-describedby={fields[`layers[${i}].steel`] ? `layer-${i}-wrong` : undefined}
            onChange={(e) => setLayer(i, { steel: e.target.value })}
          >
            <Options of={steels} />
          </Form.Select>
          <Button
            variant="link"
            onClick={() => set({ layers: now.layers.filter((_, k) => k !== i) })}
          >
            Remove
          </Button>
          {fields[`layers[${i}].steel`] && (
            <span className="wrong" id={`layer-${i}-wrong`}>
              {fields[`layers[${i}].steel`]}
            </span>
          )}
        </div>
      ))}
      <Button
        variant="link"
        disabled={now.layers.length >= 6}
        onClick={() => set({ layers: [...now.layers, ...more] })}
      >
        {now.layers.length === 0 ? "It is made of several steels" : "Add a layer"}
      </Button>
      {fields.layers && (
        <p className="wrong" role="alert">
          {fields.layers}
        </p>
      )}
      <Meeting layers={now.layers} />
    </fieldset>
  );
}

/** A bar, new or in stock. */
export function BarForm({ first, onDone }: { first: Written; onDone: () => void }) {
  const bar = useBarForm(first, onDone);
  const { now, setNow, set, save, fields, elementError, theirs } = bar;
  return (
    <form
      className={css["bar-form"]}
      aria-label={first.version === 0 ? "New bar" : `Bar ${first.name}`}
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate(now);
      }}
    >
      <BarFields {...bar} />
      <LayerFields {...bar} />
      <fieldset className={css.mill}>
        <legend className="small-head">The mill's own analysis, where there is one</legend>
        <ElementFields
          id="mill"
          error={elementError}
          input={(symbol) => ({
            value: now.analysis[symbol] ?? "",
            onChange: (e: React.ChangeEvent<HTMLInputElement>) =>
              set({ analysis: { ...now.analysis, [symbol]: e.target.value } }),
          })}
        />
      </fieldset>
      {theirs && (
        <ConflictNotice
          onResolve={(mine) =>
            mine ? save.mutate({ ...now, version: theirs.version }) : setNow(written(theirs))
          }
        >
          Someone changed this bar meanwhile. What you typed is still here.
        </ConflictNotice>
      )}
      {save.error && !theirs && Object.keys(fields).length === 0 && (
        <p className="wrong" role="alert">
          {problemOf(save.error)}
        </p>
      )}
      <div className="row-of">
        <Button type="submit" disabled={save.isPending}>
          {first.version === 0 ? "Bring it into stock" : "Save bar"}
        </Button>
        <Button variant="link" onClick={onDone}>
          Not now
        </Button>
      </div>
    </form>
  );
}
