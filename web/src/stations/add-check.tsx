import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { v7 as uuid } from "uuid";
import { type Against, ApiError, api, type Station, type StationKind, take } from "../api/client";
import { changed } from "../api/live";
import { Choice } from "../fields/choice";
import { Text } from "../fields/text";
import { parse } from "../quantity/parse";
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

/** Reads a typed temperature or hardness; NaN for what is none, so that the server names it. */
function typed(text: string, hardness: boolean, units: ReturnType<typeof useUnits>["units"]) {
  return parse(hardness ? "hardness" : "temperature", text, units) ?? Number.NaN;
}

export function AddCheck({ station }: { station: Station }) {
  const client = useQueryClient();
  const { units } = useUnits();
  const options = CHECKED[station.kind] ?? HEAT;
  const [against, setAgainst] = useState(Object.keys(options)[0] as Against);
  const [rows, setRows] = useState([
    ["", ""],
    ["", ""],
    ["", ""],
  ]);
  const [altitude, setAltitude] = useState("");
  const [note, setNote] = useState("");
  const [wrong, setWrong] = useState<string | null>(null);
  const hardness = against === "blocks";
  const ice = against === "ice_and_boiling_water";
  const keep = useMutation({
    mutationFn: (points: number[][]) =>
      take(
        api.POST("/api/v1/stations/{id}/calibrations", {
          params: { path: { id: station.id } },
          body: {
            id: uuid(),
            against,
            points: points as [number, number][],
            altitude_m: Number(altitude.replace(",", ".")) || 0,
            note,
          },
        }),
      ),
    onSuccess: () => {
      setRows(rows.map(() => ["", ""]));
      setNote("");
      changed(client, "calibration", "");
    },
  });
  const problem = keep.error instanceof ApiError ? keep.error : null;
  const said =
    wrong ?? Object.values(problem?.fields ?? {})[0] ?? problem?.message ?? keep.error?.message;
  const submit = () => {
    const written = rows
      .slice(0, ice ? 2 : rows.length)
      .filter((r) => r[0]?.trim() || (!ice && r[1]?.trim()));
    const points = written.map((r) => [
      typed(r[0] ?? "", hardness, units),
      ice ? 0 : typed(r[1] ?? "", hardness, units),
    ]);
    const bad = points.flat().some(Number.isNaN);
    setWrong(
      bad || points.length === 0 ? "Write what it showed and what really was, side by side." : null,
    );
    if (!bad && points.length > 0) keep.mutate(points);
  };
  const set = (i: number, j: number, text: string) => {
    setWrong(null);
    keep.reset();
    setRows(rows.map((r, k) => (k === i ? r.map((c, l) => (l === j ? text : c)) : r)));
  };
  const unit = hardness ? "HRC" : `°${units.temperature.toUpperCase()}`;
  const places = ice ? ["In melting ice", "In boiling water"] : rows.map((_, i) => `${i + 1}`);
  return (
    <form
      className={css["add-check"]}
      aria-label="New check"
      onSubmit={(e) => {
        e.preventDefault();
        submit();
      }}
    >
      <Choice
        label="Checked against"
        value={against}
        options={options as Record<string, string>}
        onChange={(a) => setAgainst(a as Against)}
      />
      <p className="soft">{HOW[against]}</p>
      <table className="num">
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
              {[0, 1].slice(0, ice ? 1 : 2).map((j) => (
                <td key={j}>
                  <Form.Control
                    aria-label={`${j === 0 ? "It showed" : "Really was"}, ${place}`}
                    className="num"
                    inputMode="decimal"
                    autoComplete="off"
                    value={rows[i]?.[j] ?? ""}
                    onChange={(e) => set(i, j, e.target.value)}
                  />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {!ice && rows.length < 12 && (
        <Button variant="link" onClick={() => setRows([...rows, ["", ""]])}>
          One more point
        </Button>
      )}
      {ice && (
        <Text
          label="Height above the sea, m"
          max={6}
          value={altitude}
          error={problem?.fields.altitude_m}
          onChange={setAltitude}
        />
      )}
      <Text label="Remark on the check" max={500} value={note} onChange={setNote} />
      <div className="row-of">
        <Button type="submit" disabled={keep.isPending}>
          Keep check
        </Button>
        {said && (
          <span className="wrong" role="alert">
            {said}
          </span>
        )}
      </div>
    </form>
  );
}
