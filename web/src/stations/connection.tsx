import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { ApiError, api, type Device, type Station, type StationSays, take } from "../api/client";
import { changed } from "../api/live";
import { Choice } from "../fields/choice";
import { Text } from "../fields/text";
import { useUnits } from "../quantity/units";
import { bodyOf, inWords } from "./says";
import { SetPoint, SPEAKS } from "./set-point";

const TABLES = { input: "input registers", holding: "holding registers" };

/** What the form holds: everything as written. */
interface Draft {
  speaks: "modbus" | "lines";
  host: string;
  port: string;
  pattern: string;
  unit: string;
  address: string;
  table: "input" | "holding";
  set_point: string;
  per_degree: string;
  fahrenheit: boolean;
}

function draftOf(station: Station): Draft {
  const device = station.device ?? undefined;
  const map = device?.speaks === "modbus" ? device.map : undefined;
  return {
    speaks: device?.speaks ?? (station.kind === "tester" ? "lines" : "modbus"),
    host: device?.host ?? "",
    port: String(device?.port ?? (station.kind === "tester" ? 4001 : 502)),
    pattern: device?.speaks === "lines" ? device.pattern : "HRC {value}",
    unit: String(map?.unit ?? 1),
    address: String(map?.temperature.address ?? 0),
    table: map?.temperature.table ?? "input",
    set_point: map ? String(map.set_point?.address ?? "") : "0",
    per_degree: String(map?.per_degree ?? 10),
    fahrenheit: map?.fahrenheit ?? false,
  };
}

/** The device as written; numbers that are none become what the server refuses by name. */
export function deviceOf(d: Draft): Device {
  const whole = (text: string) => Number.parseInt(text, 10) || 0;
  const at = { host: d.host.trim(), port: whole(d.port) };
  if (d.speaks === "lines") return { speaks: "lines", ...at, pattern: d.pattern };
  return {
    speaks: "modbus",
    ...at,
    map: {
      unit: whole(d.unit),
      temperature: { address: whole(d.address), table: d.table },
      set_point: d.set_point.trim() === "" ? null : { address: whole(d.set_point) },
      per_degree: whole(d.per_degree),
      fahrenheit: d.fahrenheit,
    },
  };
}

/** How a station is reached, and what it says. */
export function Connection(props: { station: Station; says?: StationSays; now: number }) {
  const { station, says } = props;
  const client = useQueryClient();
  const { show } = useUnits();
  const [open, setOpen] = useState(false);
  const [draft, setDraft] = useState(() => draftOf(station));
  const save = useMutation({
    mutationFn: (device: Device | null) =>
      take(
        api.PUT("/api/v1/stations/{id}", {
          params: { path: { id: station.id } },
          body: { ...bodyOf(station), device },
        }),
      ),
    onSuccess: () => {
      setOpen(false);
      changed(client, "station", station.id);
    },
  });
  if (!station.scale) return null;
  const fields = save.error instanceof ApiError ? save.error.fields : {};
  const of = (name: string) => fields[`device.${name}`];
  const change = (part: Partial<Draft>) => setDraft({ ...draft, ...part });
  const text = (label: string, key: keyof Draft, error?: string) => (
    <Text
      label={label}
      max={253}
      value={String(draft[key])}
      error={error}
      onChange={(value) => change({ [key]: value })}
    />
  );
  const modbus = station.device?.speaks === "modbus" ? station.device.map : undefined;
  return (
    <section className="connection">
      <h3>Connection</h3>
      {station.device ? (
        <p>
          At {station.device.host}, port {station.device.port}:{" "}
          <b className="num">{says ? inWords(says, station.kind, props.now, show) : "waiting"}</b>
          {says?.really !== null &&
            says?.really !== undefined &&
            says.value !== null &&
            says.value !== says.really && (
              <span className="soft">
                {" "}
                (really{" "}
                {station.kind === "tester"
                  ? `${says.really.toFixed(1)} HRC`
                  : show("temperature", says.really)}{" "}
                by its last check)
              </span>
            )}
        </p>
      ) : (
        <p className="soft">Not connected: what it shows is written down by hand.</p>
      )}
      {modbus?.set_point && <SetPoint key={station.id} station={station} says={says} />}
      {open ? (
        <form
          className="grid"
          aria-label="Connection"
          onSubmit={(e) => {
            e.preventDefault();
            save.mutate(deviceOf(draft));
          }}
        >
          <Choice
            label="It speaks"
            value={draft.speaks}
            asIs
            options={station.kind === "tester" ? { lines: SPEAKS.lines } : SPEAKS}
            onChange={(speaks) => change({ speaks: speaks as Draft["speaks"] })}
          />
          {text("Host", "host", of("host"))}
          {text("Port", "port", of("port"))}
          {draft.speaks === "lines" ? (
            text("A line looks like", "pattern", of("pattern"))
          ) : (
            <>
              {text("Unit", "unit", of("map.unit"))}
              {text("Temperature at register", "address")}
              <Choice
                label="Among its"
                value={draft.table}
                options={TABLES}
                onChange={(table) => change({ table: table as Draft["table"] })}
              />
              {text("Set point at holding register", "set_point", of("map.set_point"))}
              {text("Steps to a degree", "per_degree", of("map.per_degree"))}
              <Form.Check
                id="fahrenheit"
                label="It counts in °F"
                checked={draft.fahrenheit}
                onChange={(e) => change({ fahrenheit: e.target.checked })}
              />
            </>
          )}
          <div className="wide row-of">
            <Button type="submit" disabled={save.isPending}>
              Connect
            </Button>
            {station.device && (
              <Button variant="link" onClick={() => save.mutate(null)}>
                Disconnect
              </Button>
            )}
            <Button variant="link" onClick={() => setOpen(false)}>
              Never mind
            </Button>
            {save.error && <span className="wrong">{save.error.message}</span>}
          </div>
        </form>
      ) : (
        <Button variant="link" onClick={() => setOpen(true)}>
          {station.device ? "Change how it is reached" : "Connect it"}
        </Button>
      )}
    </section>
  );
}
