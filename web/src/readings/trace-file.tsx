import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form, Table } from "react-bootstrap";
import { v7 as uuid } from "uuid";
import { ApiError, api, type Blade, type LogColumns, type LogRead, take } from "../api/client";
import { changed } from "../api/live";
import { useStations } from "../api/queries";
import { Choice } from "../fields/choice";
import { useUnits } from "../quantity/units";
import { logNote } from "../words/logs";
import { span } from "../words/names";
import css from "./readings.module.css";

/** Largest log that the server takes, bytes. */
export const LARGEST = 4_000_000;

export interface File {
  name: string;
  text: string;
}

/** A log that was read: what was taken for what, to be changed before it is kept. */
export function Choose(props: {
  file: File;
  read: LogRead;
  blade: Blade;
  onColumns: (columns: LogColumns) => void;
  onDone: () => void;
}) {
  const { file, read, blade } = props;
  const client = useQueryClient();
  const { show, say } = useUnits();
  const stations = useStations();
  const [station, setStation] = useState("");
  const [begins, setBegins] = useState("");
  const keep = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/v1/blades/{id}/traces", {
          params: { path: { id: blade.id } },
          body: {
            id: uuid(),
            name: file.name,
            text: file.text,
            columns: read.columns,
            station_id: station || undefined,
            starts_at: begins ? new Date(begins).toISOString() : undefined,
          },
        }),
      ),
    onSuccess: () => {
      changed(client, "trace", "", blade.id);
      props.onDone();
    },
  });
  const columns = read.columns;
  const names = Object.fromEntries(read.headings.map((h, i) => [String(i), h]));
  const set = (part: Partial<LogColumns>) => props.onColumns({ ...columns, ...part });
  const places = Object.fromEntries(
    (stations.data ?? [])
      .filter((s) => ["kiln", "oven", "forge", "logger"].includes(s.kind) && !s.retired_at)
      .map((s) => [s.id, s.name]),
  );
  const error = keep.error instanceof ApiError ? keep.error : null;
  return (
    <form
      className={css["choose-columns"]}
      aria-label={`Columns of ${file.name}`}
      onSubmit={(e) => {
        e.preventDefault();
        keep.mutate();
      }}
    >
      <p>
        <b>{file.name}</b>: {read.samples} samples over{" "}
        {span(((read.span_ms[1] ?? 0) - (read.span_ms[0] ?? 0)) / 1000)}, from{" "}
        {show("temperature", read.span_c[0] ?? 0)} to {show("temperature", read.span_c[1] ?? 0)}.
        {read.began_at &&
          ` It began ${new Date(read.began_at).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "medium" })}${read.zoned ? "" : ", its clock taken to go by the shop's zone"}.`}
      </p>
      {read.notes.map((n) => (
        <p key={logNote(n, say)} className="warn-line">
          {logNote(n, say)}
        </p>
      ))}
      <Table className={`num ${css["first-rows"]}`}>
        <thead>
          <tr>
            {read.headings.map((h, i) => (
              <th
                key={h}
                className={
                  [columns.time, columns.clock, columns.temperature].includes(i) ? "on" : ""
                }
              >
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {read.first_rows.map((row) => (
            <tr key={row.join(";")}>
              {row.map((cell, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: columns never reorder
                <td key={i}>{cell}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </Table>
      <div className="grid">
        <Choice
          label="Time is in"
          asIs
          value={String(columns.time)}
          options={names}
          onChange={(c) => set({ time: Number(c), clock: null })}
        />
        <Choice
          label="Temperature is in"
          asIs
          value={String(columns.temperature)}
          options={names}
          onChange={(c) => set({ temperature: Number(c) })}
        />
        <Choice
          label="It counts in"
          asIs
          value={columns.fahrenheit ? "f" : "c"}
          options={{ c: "Celsius", f: "Fahrenheit" }}
          onChange={(c) => set({ fahrenheit: c === "f" })}
        />
        <Choice
          label="Taken at"
          asIs
          value={station}
          placeholder="not said"
          options={places}
          onChange={setStation}
        />
        <Form.Group controlId="log-begins" className="field">
          <Form.Label>{read.dated ? "Began at, if its clock was wrong" : "It began at"}</Form.Label>
          <Form.Control
            type="datetime-local"
            step="1"
            value={begins}
            isInvalid={!!error?.fields.starts_at}
            onChange={(e) => setBegins(e.target.value)}
          />
          {error?.fields.starts_at && <div className="wrong">{error.fields.starts_at}</div>}
        </Form.Group>
        <div className="wide row-of">
          <Button type="submit" disabled={keep.isPending}>
            Keep with this firing
          </Button>
          <Button variant="link" onClick={props.onDone}>
            Leave it
          </Button>
          {keep.error && !error?.fields.starts_at && (
            <span className="wrong" role="alert">
              {Object.values(error?.fields ?? {})[0] ?? keep.error.message}
            </span>
          )}
        </div>
      </div>
    </form>
  );
}
