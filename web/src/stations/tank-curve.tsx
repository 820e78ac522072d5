import { useMutation, useQueryClient } from "@tanstack/react-query";
import { scaleLinear, scaleSqrt } from "d3-scale";
import { useId, useState } from "react";
import { Button, Form } from "react-bootstrap";
import {
  ApiError,
  api,
  type MeasuredBath,
  type Medium,
  problemOf,
  type Station,
  take,
} from "../api/client";
import { changed } from "../api/live";
import { usualBath } from "../plan/quench-fields";
import { QuantityInput } from "../quantity/quantity-input";
import { useUnits } from "../quantity/units";
import { MEDIA } from "../words/names";
import css from "./stations.module.css";

/** Baths that a probe is quenched in; the others are no liquid. */
const isBath = (medium: string) => !["plates", "forced_air", "still_air"].includes(medium);
const MOST_BYTES = 400_000;

/** The curve as it was measured: the centre of the probe over time, the fast part spread out. */
function Drawing({ curve }: { curve: MeasuredBath }) {
  const { show, say } = useUnits();
  const [width, height] = [520, 190];
  const end = curve.points.at(-1)?.[0] ?? 60;
  const x = scaleSqrt([0, end], [56, width - 12]);
  const y = scaleLinear([0, 900], [height - 24, 8]);
  const path = curve.points.map((p) => `${x(p[0] ?? 0).toFixed(1)},${y(p[1] ?? 0).toFixed(1)}`);
  const fast = curve.measured.temp_of_max_c;
  const times = [1, 3, 10, 30, 100, 300].filter((t) => t < end);
  return (
    <svg
      viewBox={`0 0 ${width} ${height}`}
      className={css["tank-curve"]}
      role="img"
      aria-label={`The probe cools fastest at ${show("temperature", Math.round(fast))}`}
    >
      {[200, 400, 600, 800].map((t) => (
        <g key={t}>
          <line className={css.grid} x1={56} x2={width - 12} y1={y(t)} y2={y(t)} />
          <text x={50} y={y(t) + 4} textAnchor="end">
            {show("temperature", t)}
          </text>
        </g>
      ))}
      {times.map((t) => (
        <text key={t} x={x(t)} y={height - 6} textAnchor="middle">
          {say.time(t)}
        </text>
      ))}
      <line className={css.fastest} x1={56} x2={width - 12} y1={y(fast)} y2={y(fast)} />
      <polyline className={css.probe} points={path.join(" ")} />
    </svg>
  );
}

/** What a tank really does: by its kind, or by the cooling curve of a probe in it. */
export function TankCurve({ station }: { station: Station }) {
  const client = useQueryClient();
  const { say } = useUnits();
  const file = useId();
  const medium = station.medium ?? "";
  const [bath_c, setBath] = useState(station.curve?.bath_c ?? usualBath(medium as Medium));
  const done = () => changed(client, "station", station.id);
  const read = useMutation({
    mutationFn: async (chosen: File) => {
      if (chosen.size > MOST_BYTES) throw new Error("This is more than a cooling curve.");
      const body = { text: await chosen.text(), bath_c, version: station.version };
      return take(
        api.PUT("/api/v1/stations/{id}/curve", { params: { path: { id: station.id } }, body }),
      );
    },
    onSuccess: done,
  });
  const forget = useMutation({
    mutationFn: () =>
      take(
        api.DELETE("/api/v1/stations/{id}/curve", {
          params: { path: { id: station.id }, query: { version: station.version } },
        }),
      ),
    onSuccess: done,
  });
  if (station.kind !== "tank" || !isBath(medium) || medium === "") return null;
  const { curve } = station;
  const failed = read.error ?? forget.error;
  const said = failed instanceof ApiError ? failed.fields : {};
  const per = (rate: number) => `${say.difference(rate)}/s`;
  return (
    <section aria-label="Cooling curve">
      <h3>Cooling curve</h3>
      {curve ? (
        <>
          <Drawing curve={curve} />
          <p>
            Fastest <b className="num">{per(curve.measured.max_rate_c_s)}</b> at{" "}
            <b className="num">{say.temperature(Math.round(curve.measured.temp_of_max_c))}</b>,{" "}
            <b className="num">{per(curve.measured.rate_at_300_c_s)}</b> as it passes{" "}
            {say.temperature(300)}, in a bath of {say.temperature(curve.bath_c)}. Quenches in this
            tank go by it; a probe simulated so meets it within{" "}
            {Math.max(1, Math.round(100 * curve.missed))} % of the fastest rate.
          </p>
        </>
      ) : (
        <p className="soft">
          Never measured: it is taken to quench as {MEDIA[medium as keyof typeof MEDIA]} usually
          does. With a probe after ISO 9950 (Inconel, {say.length(12.5)} thick, from about{" "}
          {say.temperature(850)}) it goes by its own curve: a file with time and temperature of the
          centre, on the scale its heading says.
        </p>
      )}
      <div className="tool-row">
        <QuantityInput
          label="Bath while measured"
          kind="temperature"
          value={bath_c}
          range={[-20, 600]}
          error={said.bath_c}
          onChange={setBath}
        />
        <Form.Label htmlFor={file} className="btn btn-outline-primary">
          {curve ? "Read another curve" : "Read a curve"}
        </Form.Label>
        <input
          id={file}
          type="file"
          className="visually-hidden"
          accept=".csv,.txt,.tsv,text/csv,text/plain"
          disabled={read.isPending}
          onChange={(e) => {
            const chosen = e.target.files?.[0];
            // The same file again is another try.
            e.target.value = "";
            if (chosen) read.mutate(chosen);
          }}
        />
        {curve && (
          <Button variant="link" disabled={forget.isPending} onClick={() => forget.mutate()}>
            Forget it: go by its kind
          </Button>
        )}
        {read.isPending && <span role="status">Reading…</span>}
      </div>
      {failed && !said.bath_c && (
        <p className="wrong" role="alert">
          {Object.values(said)[0] ?? problemOf(failed)}
        </p>
      )}
    </section>
  );
}
