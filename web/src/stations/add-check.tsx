import { useQueryClient } from "@tanstack/react-query";
import { Button, Form, Table } from "react-bootstrap";
import { type UseFormReturn, useFieldArray } from "react-hook-form";
import { v7 as uuid } from "uuid";
import { type Against, api, type Station, type StationKind, take } from "../api/client";
import { changed } from "../api/live";
import { ChoiceField, Saved, TextField, useSavedForm } from "../fields/saved-form";
import { parse, type Units } from "../quantity/parse";
import { useUnits } from "../quantity/units";
import { HOW } from "./drift";
import css from "./stations.module.css";

/** What a kind of station can be checked against. */
const CHECKED: Partial<Record<StationKind, Partial<Record<Against, string>>>> = {
  tester: { blocks: "hardness blocks" },
};

const HEAT: Partial<Record<Against, string>> = {
  thermometer: "a thermometer you trust",
  ice_and_boiling_water: "melting ice and boiling water",
};

/** A check as it is written. */
interface Draft {
  against: Against;
  rows: { shown: string; really: string }[];
  altitude_m: string;
  note: string;
}

const EMPTY = { shown: "", really: "" };
const MOST_POINTS = 12;
const isIce = (against: Against) => against === "ice_and_boiling_water";

/** What it showed and what really was, `[shown, really]`, °C or HRC; none when something is no number. */
function pointsOf({ against, rows }: Draft, units: Units): [number, number][] | null {
  const ice = isIce(against);
  const kind = against === "blocks" ? "hardness" : "temperature";
  const typed = (text: string) => parse(kind, text, units) ?? Number.NaN;
  const points = rows
    .slice(0, ice ? 2 : rows.length)
    .filter((r) => r.shown.trim() || (!ice && r.really.trim()))
    .map((r): [number, number] => [typed(r.shown), ice ? 0 : typed(r.really)]);
  return points.length === 0 || points.flat().some(Number.isNaN) ? null : points;
}

/** The points of a check, side by side. */
function Points({ form, unit }: { form: UseFormReturn<Draft>; unit: string }) {
  const rows = useFieldArray({ control: form.control, name: "rows" });
  const ice = isIce(form.watch("against"));
  const places = ice
    ? ["In melting ice", "In boiling water"]
    : rows.fields.map((_, i) => `${i + 1}`);
  const input = (place: string, i: number, side: "shown" | "really") => (
    <Form.Control
      aria-label={`${side === "shown" ? "It showed" : "Really was"}, ${place}`}
      className="num"
      inputMode="decimal"
      autoComplete="off"
      {...form.register(`rows.${i}.${side}`, { onChange: () => form.clearErrors("root") })}
    />
  );
  return (
    <>
      <Table className="num">
        <thead>
          <tr>
            <th />
            <th>It showed, {unit}</th>
            {!ice && <th>Really was, {unit}</th>}
          </tr>
        </thead>
        <tbody>
          {places.map((place, i) => (
            <tr key={place}>
              <th scope="row">{place}</th>
              <td>{input(place, i, "shown")}</td>
              {!ice && <td>{input(place, i, "really")}</td>}
            </tr>
          ))}
        </tbody>
      </Table>
      {!ice && places.length < MOST_POINTS && (
        <Button variant="link" onClick={() => rows.append(EMPTY, { shouldFocus: false })}>
          One more point
        </Button>
      )}
    </>
  );
}

export function AddCheck({ station }: { station: Station }) {
  const client = useQueryClient();
  const { units } = useUnits();
  const options = CHECKED[station.kind] ?? HEAT;
  const values: Draft = {
    against: Object.keys(options)[0] as Against,
    rows: [EMPTY, EMPTY, EMPTY],
    altitude_m: "",
    note: "",
  };
  const { form, run, submit, wrong } = useSavedForm({
    values,
    save: async (draft) => {
      const points = pointsOf(draft, units);
      if (!points) throw new Error("Write what it showed and what really was, side by side.");
      const { against, note } = draft;
      const altitude_m = Number(draft.altitude_m.replace(",", ".")) || 0;
      return take(
        api.POST("/api/v1/stations/{id}/calibrations", {
          params: { path: { id: station.id } },
          body: { id: uuid(), against, points, altitude_m, note },
        }),
      );
    },
    onSaved: (_, form) => {
      const { against, altitude_m, rows } = form.getValues();
      form.reset({ against, altitude_m, rows: rows.map(() => EMPTY), note: "" });
      changed(client, "calibration", "");
    },
  });
  const against = form.watch("against");
  const unit = against === "blocks" ? "HRC" : `°${units.temperature.toUpperCase()}`;
  return (
    <form className={css["add-check"]} aria-label="New check" onSubmit={submit}>
      <ChoiceField
        form={form}
        name="against"
        label="Checked against"
        options={options as Record<string, string>}
      />
      <p className="soft">{HOW[against]}</p>
      <Points form={form} unit={unit} />
      {isIce(against) && (
        <TextField form={form} name="altitude_m" label="Height above the sea, m" max={6} />
      )}
      <TextField form={form} name="note" label="Remark on the check" max={500} />
      <div className="row-of">
        <Button type="submit" disabled={run.isPending}>
          Keep check
        </Button>
        <Saved wrong={wrong} saved={false} word="" />
      </div>
    </form>
  );
}
