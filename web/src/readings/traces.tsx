import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { v7 as uuid } from "uuid";
import {
  ApiError,
  api,
  type Blade,
  type Firing,
  type LogColumns,
  type LogRead,
  type TraceView,
  take,
} from "../api/client";
import { queries, useStations, useTraces } from "../api/queries";
import { Choice } from "../fields/choice";
import { useUnits } from "../quantity/units";
import { logNote } from "../words/logs";
import { STEPS, span } from "../words/names";
import { TraceChart } from "./trace-chart";

/** Largest log that the server takes, bytes. */
const LARGEST = 4_000_000;

interface File {
  name: string;
  text: string;
}

/** A log that was read: what was taken for what, to be changed before it is kept. */
function Choose(props: {
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
      client.invalidateQueries();
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
      className="choose-columns"
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
      <table className="num first-rows">
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
      </table>
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

/** What a trace says of the steps, and taking it into the record. */
function Steps({ trace, firing }: { trace: TraceView; firing: Firing }) {
  const client = useQueryClient();
  const { show, degrees } = useUnits();
  const say = useMutation({
    mutationFn: ({ step, round, really }: { step: number; round?: number; really: number[] }) =>
      take(
        api.POST("/api/v1/firings/{id}/events", {
          params: { path: { id: firing.id } },
          body: {
            id: uuid(),
            kind: "say",
            step,
            round,
            temperature_c: really[0],
            lasted_s: really[1],
            note: `From the trace of ${trace.name}`,
          },
        }),
      ),
    onSuccess: () => client.invalidateQueries(),
  });
  if (trace.steps.length === 0) {
    return (
      <p className="soft">It tells of no step of this firing: look at its times and its place.</p>
    );
  }
  return (
    <>
      <table className="trace-steps">
        <thead>
          <tr>
            <th>Step</th>
            <th>Planned</th>
            <th>Really at heat</th>
            <th>Over, under</th>
            <th>Does as much as</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {trace.steps.map((s, i) => {
            const really = trace.to_say[i] ?? null;
            const of = firing.steps[s.step];
            const rounds = of?.kind === "temper" && of.times > 1 ? of.times : 0;
            const unknown = s.held.unknown_s > 0 ? `, ${span(s.held.unknown_s)} unknown` : "";
            return (
              <tr key={`${s.step} ${s.round}`}>
                <th scope="row">
                  {STEPS[of?.kind ?? "temper"]}
                  {rounds > 0 && `, ${s.round + 1} of ${rounds}`}
                </th>
                <td className="num">
                  {show("temperature", s.planned_c)}, {span(s.planned_s)}
                </td>
                <td className="num">
                  {s.held.mean_c === null || s.held.mean_c === undefined
                    ? "never at heat"
                    : `${show("temperature", s.held.mean_c)}, ${span(s.held.at_heat_s)}${unknown}`}
                </td>
                <td className="num">
                  {degrees(s.held.overshoot_c)}, {degrees(-s.held.undershoot_c)}
                </td>
                <td className="num">
                  {s.temper ? `${show("temperature", s.temper.as_steady_c)} all along` : ""}
                </td>
                <td>
                  {really && (
                    <Button
                      variant="link"
                      onClick={() =>
                        say.mutate({
                          step: s.step,
                          round: rounds > 0 ? s.round : undefined,
                          really,
                        })
                      }
                    >
                      Take into the record
                    </Button>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {say.error && (
        <p className="wrong" role="alert">
          {say.error.message}
        </p>
      )}
      {say.isSuccess && (
        <p className="soft" role="status">
          Taken: what was done now says what was measured.
        </p>
      )}
    </>
  );
}

/** Temperature traces of the newest firings against their plans, and bringing one in. */
export function Traces({ blade, firings }: { blade: Blade; firings: Firing[] }) {
  const { say } = useUnits();
  const client = useQueryClient();
  const traces = useTraces(blade.id);
  const [file, setFile] = useState<File | null>(null);
  const read = useMutation({
    mutationFn: async (asked: { file: File; columns?: LogColumns }) =>
      take(
        api.POST("/api/v1/blades/{id}/traces/read", {
          params: { path: { id: blade.id } },
          body: { name: asked.file.name, text: asked.file.text, columns: asked.columns },
        }),
      ),
  });
  const withdraw = useMutation({
    mutationFn: (trace: string) =>
      take(
        api.DELETE("/api/v1/blades/{id}/traces/{trace}", {
          params: { path: { id: blade.id, trace } },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: queries.traces(blade.id).queryKey }),
  });
  const [tooLarge, setTooLarge] = useState<string | null>(null);
  const open = async (picked: globalThis.File) => {
    setTooLarge(null);
    if (picked.size > LARGEST) {
      setFile(null);
      setTooLarge(`${picked.name} is larger than 4 MB. Nothing was sent.`);
      return;
    }
    const next = { name: picked.name.slice(0, 120), text: await picked.text() };
    setFile(next);
    read.mutate({ file: next });
  };
  const error = read.error instanceof ApiError ? read.error : null;
  return (
    <section className="traces">
      <h2>What the thermocouple said</h2>
      {(traces.data ?? []).map((t) => {
        const firing = firings.find((f) => f.id === t.firing_id);
        return (
          <article key={`${t.id} ${t.firing_id}`}>
            <div className="row-of">
              <b>{t.name}</b>
              <span className="soft">
                {t.from_file ? "from a file" : "from the connected station"}
                {t.corrected ? ", corrected by its last check" : ""}
              </span>
              {t.from_file && (
                <>
                  <a href={`/api/v1/blades/${blade.id}/traces/${t.id}/file`} download={t.name}>
                    The file as it was
                  </a>
                  <Button variant="link" onClick={() => withdraw.mutate(t.id)}>
                    Withdraw
                  </Button>
                </>
              )}
            </div>
            <TraceChart trace={t} />
            {t.notes.map((n) => (
              <p key={logNote(n, say)} className="soft">
                {logNote(n, say)}
              </p>
            ))}
            {firing && <Steps trace={t} firing={firing} />}
          </article>
        );
      })}
      <Form.Group controlId="log-file" className="field">
        <Form.Label>Bring in a log, CSV or text</Form.Label>
        <Form.Control
          type="file"
          accept=".csv,.txt,.tsv,text/csv,text/plain"
          onChange={(e) => {
            const input = e.target as HTMLInputElement;
            const picked = input.files?.[0];
            if (picked) open(picked);
            input.value = "";
          }}
        />
      </Form.Group>
      {(tooLarge || read.error) && (
        <p className="wrong" role="alert">
          {tooLarge ?? Object.values(error?.fields ?? {})[0] ?? read.error?.message}
        </p>
      )}
      {file && read.data && (
        <Choose
          file={file}
          read={read.data}
          blade={blade}
          onColumns={(columns) => read.mutate({ file, columns })}
          onDone={() => {
            setFile(null);
            read.reset();
          }}
        />
      )}
    </section>
  );
}
