import { useMutation, useQueryClient } from "@tanstack/react-query";
import { scaleLinear } from "d3-scale";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { v7 as uuid } from "uuid";
import {
  type Against,
  ApiError,
  api,
  type CalibrationRow,
  type Station,
  type StationKind,
  take,
} from "../api/client";
import { changed } from "../api/live";
import { Choice } from "../fields/choice";
import { Text } from "../fields/text";
import { parse } from "../quantity/parse";
import { useUnits } from "../quantity/units";

/** What a kind of station can be checked against. */
const CHECKED: Partial<Record<StationKind, Partial<Record<Against, string>>>> = {
  tester: { blocks: "hardness blocks" },
};
const HEAT: Partial<Record<Against, string>> = {
  thermometer: "a thermometer you trust",
  ice_and_boiling_water: "melting ice and boiling water",
};
const HOW: Record<Against, string> = {
  thermometer:
    "Probe beside the blade's place on a heavy tray. Wait until both are steady; read two or three set points where you work.",
  ice_and_boiling_water:
    "Crushed ice just covered with water, stirred; then a rolling boil. The tip free of the wall. Steam burns.",
  blocks: "Three tests on each block, well apart; write their mean.",
};

/** How the correction runs over what is shown, newest check in full, older ones faint. */
function Drift({ all }: { all: CalibrationRow[] }) {
  const { show, degrees } = useUnits();
  const used = all.filter((c) => !c.withdrawn_at);
  const last = used.at(-1);
  if (!last) return null;
  const hardness = last.against === "blocks";
  const shown = used.flatMap((c) => c.points.map((p) => p[0] ?? 0));
  const off = used.flatMap((c) => c.points.map((p) => (p[0] ?? 0) - (p[1] ?? 0)));
  const pad = hardness ? 5 : 30;
  const low = Math.min(...shown) - pad;
  const high = Math.max(...shown) + pad;
  const [width, height] = [520, 150];
  const x = scaleLinear([low, high], [64, width - 34]);
  const most = Math.max(hardness ? 1 : 5, ...off.map(Math.abs)) * 1.25;
  const y = scaleLinear([-most, most], [height - 26, 8]);
  const path = (c: CalibrationRow) => {
    const points = c.points.map((p) => [p[0] ?? 0, (p[0] ?? 0) - (p[1] ?? 0)] as const);
    const [first, end] = [points[0], points.at(-1)];
    if (!first || !end) return "";
    return [[low, first[1]] as const, ...points, [high, end[1]] as const]
      .map(([a, b]) => `${x(a).toFixed(1)},${y(b).toFixed(1)}`)
      .join(" ");
  };
  const unit = (v: number) =>
    hardness ? `${v < 0 ? "−" : "+"}${Math.abs(v).toFixed(1)} HRC` : degrees(v);
  return (
    <svg
      className="drift"
      viewBox={`0 0 ${width} ${height}`}
      role="img"
      aria-label={`How much it shows too much: ${last.points
        .map((p) => `${unit((p[0] ?? 0) - (p[1] ?? 0))} at ${p[0]}`)
        .join(", ")}`}
    >
      {y.ticks(5).map((t) => (
        <g key={t}>
          <line x1={64} x2={width - 34} y1={y(t)} y2={y(t)} className={t === 0 ? "base" : ""} />
          <text x={58} y={y(t) + 4} textAnchor="end">
            {t === 0 ? "0" : unit(t)}
          </text>
        </g>
      ))}
      {x.ticks(6).map((t) => (
        <text key={t} x={x(t)} y={height - 6} textAnchor="middle">
          {hardness ? t : show("temperature", t)}
        </text>
      ))}
      {used.slice(-4).map((c) => (
        <g key={c.id} className={c.id === last.id ? "newest" : "older"}>
          <polyline points={path(c)} />
          {c.points.map((p) => (
            <circle
              key={p[0]}
              cx={x(p[0] ?? 0)}
              cy={y((p[0] ?? 0) - (p[1] ?? 0))}
              r={c.id === last.id ? 4 : 2.5}
            />
          ))}
        </g>
      ))}
    </svg>
  );
}

/** Reads a typed temperature or hardness; NaN for what is none, so that the server names it. */
function typed(text: string, hardness: boolean, units: ReturnType<typeof useUnits>["units"]) {
  return parse(hardness ? "hardness" : "temperature", text, units) ?? Number.NaN;
}

function AddCheck({ station }: { station: Station }) {
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
      className="add-check"
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

/** The checks of a station: the newest corrects everything that goes through it. */
export function Checks({ station, all }: { station: Station; all: CalibrationRow[] }) {
  const client = useQueryClient();
  const { show, degrees } = useUnits();
  const withdraw = useMutation({
    mutationFn: (id: string) =>
      take(
        api.DELETE("/api/v1/stations/{id}/calibrations/{calibration}", {
          params: { path: { id: station.id, calibration: id } },
        }),
      ),
    onSuccess: () => changed(client, "calibration", ""),
  });
  if (!station.scale) return null;
  const hardness = station.scale === "hardness";
  const value = (v: number) => (hardness ? v.toFixed(1) : show("temperature", v));
  const off = (v: number) =>
    hardness ? `${v < 0 ? "−" : "+"}${Math.abs(v).toFixed(1)} HRC` : degrees(v);
  return (
    <section className="checks-of">
      <h3>Checks</h3>
      <p className="soft">
        {all.some((c) => !c.withdrawn_at)
          ? "How much it shows too much. Predictions, readings and traces all count the newest one."
          : "Never checked: what it shows is taken at its word."}
      </p>
      <Drift all={all} />
      <div className="two">
        <AddCheck key={station.id} station={station} />
        <ul className="lines">
          {all.toReversed().map((c) => (
            <li key={c.id} className={c.withdrawn_at ? "withdrawn" : ""}>
              <b>{new Date(c.done_at).toLocaleDateString("en-GB", { dateStyle: "medium" })}</b>{" "}
              <span className="num">
                {c.points
                  .map((p) => `${value(p[0] ?? 0)} shown, ${value(p[1] ?? 0)} real`)
                  .join("; ")}
              </span>
              {c.drift !== null && c.drift !== undefined && (
                <span className="soft"> Moved {off(-c.drift)} since the check before.</span>
              )}
              {c.note && <span className="soft"> “{c.note}”</span>}
              {c.withdrawn_at ? (
                <span className="soft"> Withdrawn: kept, not used.</span>
              ) : (
                <Button variant="link" onClick={() => withdraw.mutate(c.id)}>
                  Withdraw
                </Button>
              )}
            </li>
          ))}
        </ul>
      </div>
    </section>
  );
}
