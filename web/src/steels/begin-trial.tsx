import { useQueryClient } from "@tanstack/react-query";
import { Button, Form } from "react-bootstrap";
import { Controller } from "react-hook-form";
import { v7 as uuid } from "uuid";
import { api, type Salvage, take } from "../api/client";
import { queries } from "../api/queries";
import { Field } from "../fields/field";
import { QuantityField, Saved, TextField, useSavedForm, WrongFields } from "../fields/saved-form";
import { OLD, SALVAGE, USUALLY } from "../words/salvage";
import { ELEMENTS, readMeasured } from "./analysis";
import { SalvageDrawing } from "./salvage-drawing";
import css from "./steels.module.css";

/** A name to begin with: an old file. */
const nameOf = (was: Salvage) => {
  const plain = OLD[was].replace(/^(an?|the) /, "");
  return plain.charAt(0).toUpperCase() + plain.slice(1);
};

/** Elements that the grades of old things differ in. */
const TOLD = ELEMENTS.slice(0, 8);

/** Begins with a piece of steel without a paper: what it was is where its analysis is looked for. */
export function BeginTrial({ onBegun }: { onBegun: (id: string) => void }) {
  const client = useQueryClient();
  const { form, run, submit, wrong } = useSavedForm({
    values: {
      was: "file" as Salvage,
      name: nameOf("file"),
      thickness_mm: 5,
      measured: {} as Record<string, string>,
    },
    save: ({ was, name, thickness_mm, measured }) => {
      const read = readMeasured(measured);
      const faults = Object.entries(read.errors);
      if (faults.length > 0) {
        throw new WrongFields(Object.fromEntries(faults.map(([s, m]) => [`measured.${s}`, m])));
      }
      const body = { id: uuid(), was, name, thickness_mm, measured: read.analysis };
      return take(api.POST("/api/v1/trials", { body }));
    },
    onSaved: (made, form) => {
      form.reset();
      onBegun(made.id);
      client.invalidateQueries({ queryKey: queries.trials.queryKey });
    },
  });
  const was = form.watch("was");
  const errors = form.formState.errors.measured as
    | Record<string, { message?: string } | undefined>
    | undefined;
  const pick = (next: Salvage) => {
    // A name that nobody wrote goes along.
    if (form.getValues("name") === nameOf(was)) form.setValue("name", nameOf(next));
    form.setValue("was", next);
  };
  return (
    <form className={css.begin} onSubmit={submit} aria-label="Steel without a paper">
      <fieldset className={css.was}>
        <legend>What was it?</legend>
        {(Object.keys(SALVAGE) as Salvage[]).map((one) => (
          <label key={one} className={was === one ? "on" : ""}>
            <input
              type="radio"
              name="was"
              className="visually-hidden"
              checked={was === one}
              onChange={() => pick(one)}
            />
            <SalvageDrawing was={one} />
            {SALVAGE[one]}
          </label>
        ))}
      </fieldset>
      <p className="soft" aria-live="polite">
        {USUALLY[was]}
      </p>
      <div className="tool-row">
        <TextField form={form} name="name" label="Call it" max={60} />
        <QuantityField
          form={form}
          name="thickness_mm"
          label="Coupons, thick"
          kind="length"
          range={[1, 20]}
        />
      </div>
      <details className={css.measured}>
        <summary>Something of it was measured</summary>
        <div className={css.elements}>
          {TOLD.map(([symbol]) => (
            <Controller
              key={symbol}
              control={form.control}
              name={`measured.${symbol}`}
              render={({ field }) => (
                <Field
                  id={`measured-${symbol}`}
                  label={`${symbol} %`}
                  className="field element"
                  error={errors?.[symbol]?.message}
                >
                  {(tie) => (
                    <Form.Control
                      className="num"
                      inputMode="decimal"
                      {...tie}
                      {...field}
                      value={field.value ?? ""}
                    />
                  )}
                </Field>
              )}
            />
          ))}
        </div>
      </details>
      <Button type="submit" disabled={run.isPending || form.watch("name").trim() === ""}>
        Begin with it
      </Button>
      <Saved wrong={wrong} saved={false} word="" />
    </form>
  );
}
