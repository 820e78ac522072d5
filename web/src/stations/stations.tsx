import { useQueryClient } from "@tanstack/react-query";
import { Button, Form } from "react-bootstrap";
import { Link, useNavigate, useParams } from "react-router";
import { v7 as uuid } from "uuid";
import {
  api,
  type CalibrationRow,
  type Station,
  type StationKind,
  type StationSays,
  take,
} from "../api/client";
import { changed } from "../api/live";
import { queries, useCalibrations, useSays, useStations } from "../api/queries";
import { Field } from "../fields/field";
import {
  CheckField,
  ChoiceField,
  QuantityField,
  Saved,
  TextField,
  useSavedForm,
} from "../fields/saved-form";
import { useUnits } from "../quantity/units";
import { useNow } from "../rack/now";
import { MEDIA, STATION_KINDS } from "../words/names";
import { Checks } from "./checks";
import { Connection } from "./connection";
import { EyeTable } from "./eye";
import { bodyOf, inWords, SILENT_MS } from "./says";
import css from "./stations.module.css";
import { TankCurve } from "./tank-curve";

/** What holds several blades on a day. */
const HOLDS: StationKind[] = ["forge", "kiln", "oven", "cold_box"];
const ORDER = Object.keys(STATION_KINDS) as StationKind[];

/** How old what is in a tank is. */
export function age(since: string, now: number): string {
  const days = Math.max(0, Math.floor((now - Date.parse(since)) / 86_400_000));
  const months = Math.round(days / 30.4);
  const old =
    days < 60
      ? `${days} ${days === 1 ? "day" : "days"}`
      : months < 24
        ? `${months} months`
        : `${Math.floor(days / 365)} years`;
  return `In it for ${old}.`;
}

/** What a check says in a few words: how far off, and how old. */
export function checked(
  check: CalibrationRow | undefined,
  now: number,
  degrees: (c: number) => string,
): string {
  if (!check) return "never checked";
  const worst = check.points.reduce((a, p) => {
    const off = (p[0] ?? 0) - (p[1] ?? 0);
    return Math.abs(off) > Math.abs(a) ? off : a;
  }, 0);
  const days = Math.max(0, Math.round((now - Date.parse(check.done_at)) / 86_400_000));
  const size =
    check.against === "blocks" ? `${Math.abs(worst).toFixed(1)} HRC` : degrees(worst).slice(1);
  const off = worst === 0 ? "what is" : `${size} too ${worst > 0 ? "much" : "little"}`;
  const ago = days === 0 ? "today" : days === 1 ? "yesterday" : `${days} days ago`;
  return `shows ${off}, checked ${ago}`;
}

function Row(props: {
  station: Station;
  says?: StationSays;
  check?: CalibrationRow;
  chosen: boolean;
  now: number;
}) {
  const { station, says, now } = props;
  const { show, degrees } = useUnits();
  return (
    <li>
      <Link to={`/stations/${station.id}`} className={props.chosen ? "on" : ""}>
        <b>{station.name}</b>{" "}
        {station.medium && (
          <span className="soft">{MEDIA[station.medium as keyof typeof MEDIA]}</span>
        )}
        {says && (
          <span className={`num ${css.says}`}>{inWords(says, station.kind, now, show)}</span>
        )}
        {station.scale && <span className="soft">{checked(props.check, now, degrees)}</span>}
      </Link>
    </li>
  );
}

function Add({ onAdded }: { onAdded: (id: string) => void }) {
  const client = useQueryClient();
  const { form, run, submit, wrong } = useSavedForm({
    values: { kind: "oven", name: "" },
    save: (body) => take(api.POST("/api/v1/stations", { body: { id: uuid(), ...body } })),
    onSaved: (made, form) => {
      form.resetField("name");
      client.invalidateQueries({ queryKey: queries.stations.queryKey });
      onAdded(made.id);
    },
  });
  return (
    <form className={css["add-station"]} onSubmit={submit}>
      <ChoiceField form={form} name="kind" label="Kind" options={STATION_KINDS} />
      <TextField form={form} name="name" label="Called" max={80} />
      <Button type="submit" disabled={run.isPending}>
        Add station
      </Button>
      <Saved wrong={wrong} saved={false} word="" />
    </form>
  );
}

function Details({ station }: { station: Station }) {
  const client = useQueryClient();
  const { show } = useUnits();
  const { form, run, submit, wrong } = useSavedForm({
    values: {
      name: station.name,
      medium: station.medium ?? "",
      litres: station.litres?.toString() ?? "",
      filled_at: station.filled_at?.slice(0, 10) ?? "",
      note: station.note,
      retired: !!station.retired_at,
      blades: station.capacity.blades?.toString() ?? "",
      depth_mm: station.capacity.depth_mm ?? null,
      heats_in_s: station.capacity.heats_in_s ?? null,
      runs_alone: station.capacity.runs_alone ?? false,
      switches_off: station.capacity.switches_off ?? false,
    },
    fieldOf: {
      "capacity.blades": "blades",
      "capacity.depth_mm": "depth_mm",
      "capacity.heats_in_s": "heats_in_s",
      "capacity.runs_alone": "runs_alone",
      "capacity.switches_off": "switches_off",
    },
    save: ({
      medium,
      litres,
      filled_at,
      blades,
      depth_mm,
      heats_in_s,
      runs_alone,
      switches_off,
      ...written
    }) =>
      take(
        api.PUT("/api/v1/stations/{id}", {
          params: { path: { id: station.id } },
          body: {
            ...bodyOf(station),
            ...written,
            capacity: {
              ...(blades.trim() === "" ? {} : { blades: Number(blades) }),
              ...(depth_mm === null ? {} : { depth_mm }),
              ...(heats_in_s === null ? {} : { heats_in_s }),
              ...(runs_alone ? { runs_alone } : {}),
              ...(switches_off ? { switches_off } : {}),
            },
            medium: medium === "" ? null : medium,
            litres: litres.trim() === "" ? null : Number(litres.replace(",", ".")),
            filled_at: filled_at === "" ? null : `${filled_at}T00:00:00Z`,
          },
        }),
      ),
    follow: true,
    onSaved: () => changed(client, "station", station.id),
  });
  const retire = () => run.mutate({ ...form.getValues(), retired: !station.retired_at });
  return (
    <form className="grid" aria-label={station.name} onSubmit={submit}>
      <TextField form={form} name="name" label="Name" max={80} />
      <TextField form={form} name="note" label="Remark" max={500} />
      {station.kind === "tank" && (
        <>
          <ChoiceField
            form={form}
            name="medium"
            label="In it"
            placeholder="not said"
            options={MEDIA}
          />
          <TextField form={form} name="litres" label="Litres" max={8} />
          <Field label="Put in on" error={form.formState.errors.filled_at?.message}>
            {(tie) => <Form.Control type="date" {...tie} {...form.register("filled_at")} />}
          </Field>
          {station.filled_at && <p className="soft">{age(station.filled_at, Date.now())}</p>}
        </>
      )}
      {HOLDS.includes(station.kind) && (
        <>
          <TextField
            form={form}
            name="blades"
            label="Blades at once (as usual when empty)"
            max={2}
          />
          <QuantityField
            form={form}
            name="depth_mm"
            label="A blade goes in as far as"
            kind="length"
            range={[50, 3000]}
          />
          {station.kind !== "cold_box" && (
            <QuantityField
              form={form}
              name="heats_in_s"
              label={`From cold to ${show("temperature", station.kind === "oven" ? 200 : 800)} in`}
              kind="time"
              range={[60, 36_000]}
            />
          )}
          {station.kind !== "forge" && (
            <div className="wide">
              <CheckField form={form} name="runs_alone" label="May run with nobody in the shop" />
              {station.kind !== "cold_box" && (
                <CheckField
                  form={form}
                  name="switches_off"
                  label="Switches itself off when its time is up"
                />
              )}
              {form.watch("runs_alone") && (
                <p className="caution">
                  Only what its maker, your insurer and the local fire code allow to run unattended:
                  with a cut-out of its own, nothing near that burns, and a smoke alarm somebody
                  hears.
                </p>
              )}
            </div>
          )}
        </>
      )}
      <div className="wide row-of">
        <Button type="submit" disabled={run.isPending}>
          Keep
        </Button>
        <Button variant="link" onClick={retire}>
          {station.retired_at ? "Use it again" : "No longer used"}
        </Button>
        <Saved wrong={wrong} saved={run.isSuccess} word="Kept." />
        {station.retired_at && (
          <span className="soft">Not offered any more; its records stand.</span>
        )}
      </div>
    </form>
  );
}

/** What the shop works at and measures with: what is connected, what was checked, and how it drifted. */
export function StationsPage() {
  const { id } = useParams();
  const navigate = useNavigate();
  const stations = useStations();
  const says = useSays();
  const checks = useCalibrations();
  const now = useNow(SILENT_MS / 10);
  const all = stations.data ?? [];
  const used = all.filter((s) => !s.retired_at || s.id === id);
  const chosen = all.find((s) => s.id === id) ?? used[0];
  const last = (station: string) =>
    checks.data?.findLast((c) => c.station_id === station && !c.withdrawn_at);
  const sayOf = (station: string) => says.data?.find((n) => n.station_id === station);
  return (
    <main className={`page ${css.stations}`}>
      <h1>Stations</h1>
      {stations.isSuccess && all.length === 0 && (
        <p>
          Fires, ovens, tanks and testers each err in their own way. Name yours: then checks and
          records find out how, and every prediction counts it.
        </p>
      )}
      <div className={css["stations-in"]}>
        <section aria-label="All stations">
          {ORDER.map((kind) => {
            const those = used.filter((s) => s.kind === kind);
            return those.length === 0 ? null : (
              <div key={kind}>
                <h2>{STATION_KINDS[kind]}</h2>
                <ul>
                  {those.map((s) => (
                    <Row
                      key={s.id}
                      station={s}
                      says={sayOf(s.id)}
                      check={last(s.id)}
                      chosen={s.id === chosen?.id}
                      now={now}
                    />
                  ))}
                </ul>
              </div>
            );
          })}
          <Add onAdded={(made) => navigate(`/stations/${made}`)} />
        </section>
        {chosen && (
          <section key={chosen.id} className={css["chosen-station"]}>
            <h2>
              {chosen.name} <span className="soft">{STATION_KINDS[chosen.kind]}</span>
            </h2>
            <Details station={chosen} />
            {chosen.kind === "eye" && <EyeTable stationId={chosen.id} />}
            <TankCurve key={`${chosen.id} ${chosen.medium}`} station={chosen} />
            <Connection station={chosen} says={sayOf(chosen.id)} now={now} />
            <Checks
              station={chosen}
              all={(checks.data ?? []).filter((c) => c.station_id === chosen.id)}
            />
          </section>
        )}
      </div>
    </main>
  );
}
