import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { Controller, type UseFormReturn, useForm } from "react-hook-form";
import { Link } from "react-router";
import { v7 as uuid } from "uuid";
import { ApiError, api, type Blade, type Station, type TesterValue, take } from "../api/client";
import { changed } from "../api/live";
import { useSays, useStations } from "../api/queries";
import { readingHeight } from "../drawing/blade-drawing";
import { Choice } from "../fields/choice";
import { Field } from "../fields/field";
import { Notice } from "../fields/notice";
import { Text } from "../fields/text";
import type { Units } from "../quantity/parse";
import { useUnits } from "../quantity/units";
import { FromTester } from "./from-tester";
import { readPlaces } from "./places";
import { readValues, STAGES } from "./reading-values";
import css from "./readings.module.css";

/** What is written of a set of readings. */
interface Written {
  stage: string;
  /** Null until it is said: then the only one there is. */
  tester: string | null;
  values: string;
  where: string;
  warm: boolean;
  skin_on: boolean;
  note: string;
}

/** What is wrong with the places, given how many values there are. */
function wrongPlaces(where: string, values: string, units: Units): string | null {
  const places = readPlaces(where, units);
  if (!places) return "Places are written like 40 60/12, from the heel.";
  const read = readValues(values);
  if (read.wrong || places.length === 0 || places.length === read.values.length) return null;
  return `${read.values.length} values, ${places.length} places: one for each, or none.`;
}

/** The fields of this form that the server found fault with, each with what it said. */
function faultsOf(error: Error | null): ["values" | "where", string][] {
  const fields = Object.entries(error instanceof ApiError ? error.fields : {});
  return fields.flatMap(([field, message]): ["values" | "where", string][] => {
    if (field.startsWith("values")) return [["values", message]];
    return field.startsWith("taken") ? [["where", message]] : [];
  });
}

/** A set of readings while it is written, and keeping it. */
export function useReadingForm(blade: Blade) {
  const client = useQueryClient();
  const { units } = useUnits();
  const stations = useStations().data ?? [];
  const testers = stations.filter((s) => s.kind === "tester");
  const [fromTester, setFromTester] = useState<string[]>([]);
  const stage = blade.firing_state?.tempered ? "tempered" : "as_quenched";
  const form = useForm<Written>({
    defaultValues: {
      stage,
      tester: null,
      values: "",
      where: "",
      warm: false,
      skin_on: false,
      note: "",
    },
  });
  // The only tester there is needs no naming, but may be said not to be it.
  const tester = form.watch("tester") ?? (testers.length === 1 ? (testers[0]?.id ?? "") : "");
  const keep = useMutation({
    mutationFn: (w: Written) =>
      take(
        api.POST("/api/v1/blades/{id}/readings", {
          params: { path: { id: blade.id } },
          body: {
            id: uuid(),
            stage: w.stage,
            values: readValues(w.values).values,
            note: w.note,
            tester_id: tester || undefined,
            from_tester: fromTester,
            taken: {
              places: (readPlaces(w.where, units) ?? []).map(([x, y]) => [
                x,
                y ?? readingHeight(blade.outline, x),
              ]),
              warm: w.warm,
              skin_on: w.skin_on,
              aside: [],
            },
          },
        }),
      ),
    onSuccess: () => {
      for (const name of ["values", "where", "note"] as const) form.setValue(name, "");
      setFromTester([]);
      changed(client, "reading", "", blade.id);
    },
    onError: (error) => {
      for (const [field, message] of faultsOf(error)) form.setError(field, { message });
    },
  });
  const append = (name: "values" | "where", more: string) =>
    form.setValue(name, `${form.getValues(name)} ${more}`.trim());
  return {
    form,
    keep,
    tester,
    testers,
    fromTester,
    where: form.watch("where"),
    point: (place: string) => append("where", place),
    takeIn: (value: TesterValue) => {
      setFromTester([...fromTester, value.id]);
      append("values", value.value_hrc.toFixed(1));
    },
  };
}

type ReadingForm = ReturnType<typeof useReadingForm>;

/** Which tester it is. */
function With({
  form,
  testers,
  tester,
}: {
  form: UseFormReturn<Written>;
  testers: Station[];
  tester: string;
}) {
  if (testers.length === 0) {
    return (
      <p className="soft field">
        Name your tester among the <Link to="/stations">Stations</Link> and its error is learned.
      </p>
    );
  }
  return (
    <Choice
      label="With"
      value={tester}
      placeholder="a tester not named"
      options={Object.fromEntries(testers.map((t) => [t.id, t.name]))}
      onChange={(to) => form.setValue("tester", to)}
    />
  );
}

/** The values, with how to write them until something is wrong. */
function Values({ form, connected }: { form: UseFormReturn<Written>; connected: boolean }) {
  const wrong = form.formState.errors.values?.message;
  return (
    <Form.Group controlId="readings" className="field wide">
      <Form.Label>Readings, HRC, three or more</Form.Label>
      <Form.Control
        className={`num ${css["big-number"]}`}
        inputMode="decimal"
        autoComplete="off"
        isInvalid={!!wrong}
        aria-describedby="readings-help"
        {...form.register("values", { validate: (text) => readValues(text).wrong ?? true })}
      />
      <div id="readings-help" className={wrong ? "wrong" : "soft"}>
        {wrong ||
          (connected
            ? "The tester is connected: each test waits above, to be taken or put aside."
            : "Cold, and with the decarburized skin taken off. Write them like 61.5 62 61.")}
      </div>
    </Form.Group>
  );
}

/** Writing a set of readings down. */
export function ReadingFields({ reading }: { reading: ReadingForm }) {
  const { form, keep, tester, testers, fromTester, takeIn } = reading;
  const { units } = useUnits();
  const connected = useSays().data?.some((s) => s.station_id === tester) ?? false;
  const { register, control, watch } = form;
  const { errors } = form.formState;
  return (
    <>
      <form className="grid" onSubmit={form.handleSubmit((written) => keep.mutate(written))}>
        <Controller
          control={control}
          name="stage"
          render={({ field }) => (
            <Choice label="Read" value={field.value} options={STAGES} onChange={field.onChange} />
          )}
        />
        <With form={form} testers={testers} tester={tester} />
        <FromTester tester={tester} taken={fromTester} onTake={takeIn} />
        <Values form={form} connected={connected} />
        <Field
          className="field wide"
          label={`Where, ${units.length} from the heel / above the edge: point at the drawing, or write`}
          error={errors.where?.message}
        >
          {(tie) => (
            <Form.Control
              {...tie}
              className="num"
              autoComplete="off"
              {...register("where", {
                validate: (where, all) => wrongPlaces(where, all.values, units) ?? true,
              })}
            />
          )}
        </Field>
        <div className={`wide row-of ${css.states}`}>
          <Form.Check id="warm" label="Still warm" {...register("warm")} />
          <Form.Check id="skin-on" label="Skin still on" {...register("skin_on")} />
          {(watch("warm") || watch("skin_on")) && (
            <span className="soft">Kept and shown, but not learned from: it reads low.</span>
          )}
        </div>
        <div className="wide">
          <Controller
            control={control}
            name="note"
            render={({ field }) => (
              <Text label="Note on it" max={500} value={field.value} onChange={field.onChange} />
            )}
          />
        </div>
        <div className="wide row-of">
          <Button type="submit" disabled={keep.isPending}>
            Keep readings
          </Button>
          {keep.isSuccess && watch("values") === "" && (
            <span className="soft" role="status">
              Kept. The next prediction has learned from it.
            </span>
          )}
        </div>
      </form>
      {keep.error && faultsOf(keep.error).length === 0 && (
        <Notice>Not kept: {keep.error.message} What you typed is still here.</Notice>
      )}
    </>
  );
}
