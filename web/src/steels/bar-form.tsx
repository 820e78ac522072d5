import { Button, Form } from "react-bootstrap";
import { type UseFormReturn, useFieldArray } from "react-hook-form";
import type { Layer } from "../api/client";
import { ConflictNotice } from "../draft/conflict-notice";
import { Options } from "../fields/options";
import { ChoiceField, QuantityField, Saved, TextField } from "../fields/saved-form";
import { QuantityInput } from "../quantity/quantity-input";
import { CONDITIONS, ROLES, useBarForm, type Written, written } from "./bar-draft";
import { SteelByName } from "./by-name";
import { ElementFields } from "./element-fields";
import { Meeting } from "./meeting";
import { useSteelOptions } from "./steel-options";
import css from "./steels.module.css";

type BarWritten = UseFormReturn<Written>;

/** What it is called, what it is of, and how large it is. */
function BarFields({ form }: { form: BarWritten }) {
  const steels = useSteelOptions();
  const size = (
    name: "width_mm" | "thickness_mm" | "length_mm" | "left_mm",
    label: string,
    range: [number, number],
    onChange?: (mm: number) => void,
  ) => (
    <QuantityField
      form={form}
      name={`size.${name}`}
      label={label}
      kind="length"
      range={range}
      onChange={onChange}
    />
  );
  return (
    <div className="grid">
      <TextField form={form} name="name" label="Bar" max={60} />
      {form.watch("layers").length === 0 && (
        <div>
          <ChoiceField form={form} name="steel" label="Steel" options={steels} />
          <SteelByName onChoose={(steel) => form.setValue("steel", steel)} />
        </div>
      )}
      <ChoiceField form={form} name="condition" label="It came" options={CONDITIONS} />
      {size("width_mm", "Width", [3, 500])}
      {size("thickness_mm", "Thickness", [0.5, 60])}
      {size("length_mm", "Length", [10, 10_000], (length_mm) => {
        const { version, size } = form.getValues();
        const left_mm = version === 0 ? length_mm : Math.min(size.left_mm, length_mm);
        form.setValue("size.left_mm", left_mm);
      })}
      {size("left_mm", "Left of it", [0, 10_000])}
      <TextField form={form} name="note" label="Remark" max={500} />
    </div>
  );
}

/** The steels it is made of, where there are several. */
function LayerFields({ form }: { form: BarWritten }) {
  const steels = useSteelOptions();
  const layers = useFieldArray({ control: form.control, name: "layers" });
  const now = form.watch("layers");
  const { errors } = form.formState;
  const add = () => {
    const steel = form.getValues("steel");
    const more: Layer[] =
      now.length === 0
        ? [
            { role: "edge", steel },
            { role: "cladding", steel: "1018" },
          ]
        : [{ role: "core", steel }];
    layers.append(more, { shouldFocus: false });
  };
  return (
    <fieldset>
      <legend className="small-head">Layers</legend>
      {layers.fields.map((layer, i) => {
        const wrong = errors.layers?.[i]?.steel?.message;
        return (
          <div className="tool-row" key={layer.id}>
            <Form.Select
              aria-label={`Role of layer ${i + 1}`}
              {...form.register(`layers.${i}.role`)}
            >
              <Options of={ROLES} />
            </Form.Select>
            <Form.Select
              aria-label={`Steel of layer ${i + 1}`}
              isInvalid={!!wrong}
              aria-describedby={wrong ? `layer-${i}-wrong` : undefined}
              {...form.register(`layers.${i}.steel`)}
              value={now[i]?.steel}
            >
              <Options of={steels} />
            </Form.Select>
            <SteelByName onChoose={(steel) => form.setValue(`layers.${i}.steel`, steel)} />
            {now[i]?.role === "edge" && (
              <QuantityInput
                label="thick"
                kind="length"
                value={now[i]?.thickness_mm ?? null}
                range={[0.1, 60]}
                error={errors.layers?.[i]?.thickness_mm?.message}
                onChange={(mm) => form.setValue(`layers.${i}.thickness_mm`, mm)}
              />
            )}
            <Button variant="link" onClick={() => layers.remove(i)}>
              Remove
            </Button>
            {wrong && (
              <span className="wrong" id={`layer-${i}-wrong`}>
                {wrong}
              </span>
            )}
          </div>
        );
      })}
      <Button variant="link" disabled={now.length >= 6} onClick={add}>
        {now.length === 0 ? "It is made of several steels" : "Add a layer"}
      </Button>
      {errors.layers?.message && (
        <p className="wrong" role="alert">
          {errors.layers.message}
        </p>
      )}
      <Meeting layers={now} />
    </fieldset>
  );
}

/** A bar, new or in stock. */
export function BarForm({ first, onDone }: { first: Written; onDone: () => void }) {
  const { form, run, submit, wrong, theirs } = useBarForm(first, onDone);
  return (
    <form
      className={css["bar-form"]}
      aria-label={first.version === 0 ? "New bar" : `Bar ${first.name}`}
      onSubmit={submit}
    >
      <BarFields form={form} />
      <LayerFields form={form} />
      <fieldset className={css.mill}>
        <legend className="small-head">The mill's own analysis, where there is one</legend>
        <ElementFields
          id="mill"
          error={(symbol) => form.formState.errors.analysis?.[symbol]?.message}
          input={(symbol) => form.register(`analysis.${symbol}`)}
        />
      </fieldset>
      {theirs && (
        <ConflictNotice
          onResolve={(mine) => {
            if (mine) run.mutate({ ...form.getValues(), version: theirs.version });
            else {
              form.reset(written(theirs));
              run.reset();
            }
          }}
        >
          Someone changed this bar meanwhile. What you typed is still here.
        </ConflictNotice>
      )}
      <div className="row-of">
        <Button type="submit" disabled={run.isPending}>
          {first.version === 0 ? "Bring it into stock" : "Save bar"}
        </Button>
        <Button variant="link" onClick={onDone}>
          Not now
        </Button>
        <Saved wrong={theirs ? undefined : wrong} saved={false} word="" />
      </div>
    </form>
  );
}
