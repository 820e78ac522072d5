import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button } from "react-bootstrap";
import { api, type Device, type Station, take } from "../api/client";
import { changed } from "../api/live";
import { CheckField, ChoiceField, Saved, TextField, useSavedForm } from "../fields/saved-form";
import { bodyOf } from "./says";
import { SPEAKS } from "./set-point";

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

const put = (station: Station, device: Device | null) =>
  take(
    api.PUT("/api/v1/stations/{id}", {
      params: { path: { id: station.id } },
      body: { ...bodyOf(station), device },
    }),
  );

/** How a station is reached, as it is written. */
export function ConnectionForm({ station, onDone }: { station: Station; onDone: () => void }) {
  const client = useQueryClient();
  const onSaved = () => {
    onDone();
    changed(client, "station", station.id);
  };
  const { form, run, submit, wrong } = useSavedForm({
    values: draftOf(station),
    save: (draft) => put(station, deviceOf(draft)),
    onSaved,
    fieldOf: {
      "device.host": "host",
      "device.port": "port",
      "device.pattern": "pattern",
      "device.map.unit": "unit",
      "device.map.temperature": "address",
      "device.map.set_point": "set_point",
      "device.map.per_degree": "per_degree",
    },
  });
  const disconnect = useMutation({ mutationFn: () => put(station, null), onSuccess: onSaved });
  const text = (name: keyof Draft, label: string) => (
    <TextField form={form} name={name} label={label} max={253} />
  );
  return (
    <form className="grid" aria-label="Connection" onSubmit={submit}>
      <ChoiceField
        form={form}
        name="speaks"
        label="It speaks"
        asIs
        options={station.kind === "tester" ? { lines: SPEAKS.lines } : SPEAKS}
      />
      {text("host", "Host")}
      {text("port", "Port")}
      {form.watch("speaks") === "lines" ? (
        text("pattern", "A line looks like")
      ) : (
        <>
          {text("unit", "Unit")}
          {text("address", "Temperature at register")}
          <ChoiceField form={form} name="table" label="Among its" options={TABLES} />
          {text("set_point", "Set point at holding register")}
          {text("per_degree", "Steps to a degree")}
          <CheckField form={form} name="fahrenheit" label="It counts in °F" />
        </>
      )}
      <div className="wide row-of">
        <Button type="submit" disabled={run.isPending}>
          Connect
        </Button>
        {station.device && (
          <Button variant="link" onClick={() => disconnect.mutate()}>
            Disconnect
          </Button>
        )}
        <Button variant="link" onClick={onDone}>
          Never mind
        </Button>
        <Saved wrong={wrong ?? disconnect.error?.message} saved={false} word="" />
      </div>
    </form>
  );
}
