import { zodResolver } from "@hookform/resolvers/zod";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { useForm } from "react-hook-form";
import { useSearchParams } from "react-router";
import { v7 as uuid } from "uuid";
import * as z from "zod/mini";
import { ApiError, api, type SteelView, take } from "../api/client";
import { queries, useSteels } from "../api/queries";
import { useWidth } from "../drawing/heat-path";
import { useUnits } from "../quantity/units";
import { capital, hrc, MEDIA, PURPOSES } from "../words/names";
import { serves } from "../words/steels";
import { SteelPlaces } from "./places";

const HARDENING: Record<string, string> = {
  not_hardenable: "does not harden",
  water: "water",
  oil: "oil",
  air: "air or plates",
};

const SUB_ZERO: Record<string, string> = {
  no: "gains little",
  optional: "gains a little",
  yes: "usual",
};

/** Element, smallest and largest percent; as the core has them. */
export const ELEMENTS: [string, number, number][] = [
  ["C", 0.05, 2.5],
  ["Si", 0, 3],
  ["Mn", 0, 3],
  ["Cr", 0, 20],
  ["Ni", 0, 5],
  ["Mo", 0, 5],
  ["W", 0, 8],
  ["V", 0, 5],
];

/** Hardness against temper temperature, with the shop's own results on it. */
function Curve({ steel }: { steel: SteelView }) {
  const points = useQuery(queries.steelPoints(steel.key));
  const [ref, width] = useWidth<HTMLDivElement>(620);
  const { units } = useUnits();
  const height = 240;
  const [x0, x1, y0, y1] = [44, width - 12, 12, height - 30];
  const x = (t: number) => x0 + ((t - 120) / 480) * (x1 - x0);
  const y = (h: number) => y1 - ((h - 30) / 38) * (y1 - y0);
  const degrees = (t: number) => (units.temperature === "f" ? Math.round((t * 9) / 5 + 32) : t);
  const shown = steel.temper_curve.filter((p) => (p[1] ?? 0) >= 30);
  const brittle = steel.analysis.Cr < 4;
  return (
    <div ref={ref}>
      <svg
        width={width}
        height={height}
        role="img"
        aria-label={`Typical hardness of ${steel.name} after two tempers of two hours, from ${hrc(shown[0]?.[1] ?? 0)} HRC at ${degrees(120)} degrees`}
        className="curve"
      >
        {brittle && (
          <g className="brittle">
            <rect x={x(260)} width={x(370) - x(260)} y={y0} height={y1 - y0} />
            <text x={x(262)} y={y0 + 12}>
              brittle range
            </text>
          </g>
        )}
        {[30, 40, 50, 60].map((h) => (
          <g key={h} className="grid">
            <line x1={x0} x2={x1} y1={y(h)} y2={y(h)} />
            <text x={x0 - 8} y={y(h) + 4} textAnchor="end">
              {h}
            </text>
          </g>
        ))}
        {[150, 200, 300, 400, 500, 600].map((t) => (
          <g key={t} className="grid">
            <line x1={x(t)} x2={x(t)} y1={y1} y2={y1 + 4} />
            <text x={x(t)} y={y1 + 17} textAnchor="middle">
              {degrees(t)}
            </text>
          </g>
        ))}
        <text className="axis" x={x0 - 8} y={y0 + 2} textAnchor="end">
          HRC
        </text>
        {(points.data ?? []).map((p) => (
          <path
            key={`${p.mark} ${p.temper_c} ${p.measured_hrc}`}
            className="own-point"
            d={`M${x(p.temper_c)} ${y(p.measured_hrc) - 5}l5 5l-5 5l-5 -5z`}
          >
            <title>
              {p.mark}: {hrc(p.measured_hrc)} HRC
            </title>
          </path>
        ))}
        <polyline points={shown.map((p) => `${x(p[0] ?? 0)},${y(p[1] ?? 0)}`).join(" ")} />
      </svg>
      {(points.data ?? []).length > 0 && (
        <p className="fine">
          ◇ your own:{" "}
          {(points.data ?? [])
            .slice(-8)
            .map(
              (p) => `${p.mark} ${hrc(p.measured_hrc)} HRC at ${degrees(Math.round(p.temper_c))}°`,
            )
            .join(", ")}
          .
        </p>
      )}
    </div>
  );
}

/** The working temperatures of a steel on one scale. */
function Windows({ steel }: { steel: SteelView }) {
  const [ref, width] = useWidth<HTMLDivElement>(620);
  const { show } = useUnits();
  const x = (t: number) => 110 + ((t - 650) / 500) * (width - 250);
  const rows: [string, number, number, string][] = [
    [steel.upper_is_ac3 ? "Ac1 to Ac3" : "Ac1 to Acm", steel.ac1_c, steel.upper_c, ""],
    [
      "Austenitize",
      steel.austenitize_low_c,
      steel.austenitize_high_c,
      show("temperature", steel.austenitize_c),
    ],
    ["Anneal", steel.anneal_c - 3, steel.anneal_c + 3, show("temperature", steel.anneal_c)],
  ];
  if (steel.normalize_c) {
    rows.push([
      "Normalize",
      steel.normalize_c - 3,
      steel.normalize_c + 3,
      show("temperature", steel.normalize_c),
    ]);
  }
  return (
    <div ref={ref} className="windows">
      <svg
        width={width}
        height={rows.length * 22 + 22}
        role="img"
        aria-label={`Working temperatures of ${steel.name}`}
      >
        <line
          className="coarse"
          x1={x(steel.coarsening_c)}
          x2={x(steel.coarsening_c)}
          y1="0"
          y2={rows.length * 22}
        />
        <text x={x(steel.coarsening_c) + 4} y={rows.length * 22 - 4} className="note">
          grain coarsens
        </text>
        {[700, 800, 900, 1000, 1100].map((t) => (
          <text key={t} className="tick" x={x(t)} y={rows.length * 22 + 16} textAnchor="middle">
            {show("temperature", t)}
          </text>
        ))}
        {rows.map(([name, low, high, text], i) => (
          <g key={name} transform={`translate(0 ${i * 22 + 2})`}>
            <text x="0" y="13">
              {name}
            </text>
            <line className="rule" x1="110" x2={width - 140} y1="9" y2="9" />
            <rect x={x(low)} width={Math.max(3, x(high) - x(low))} y="4" height="10" />
            <text className="num" x={width - 132} y="13">
              {text || `${show("temperature", low)} – ${show("temperature", high)}`}
            </text>
          </g>
        ))}
      </svg>
    </div>
  );
}

const schema = z.object({
  name: z
    .string()
    .check(z.trim(), z.minLength(1, "Give it a name."), z.maxLength(60, "At most 60 characters.")),
  analysis: z.record(z.string(), z.string()),
});
type Written = z.infer<typeof schema>;

/** Reads percents as typed; empty is none. */
export function readAnalysis(written: Record<string, string>): {
  analysis: Record<string, number>;
  errors: Record<string, string>;
} {
  const analysis: Record<string, number> = {};
  const errors: Record<string, string> = {};
  for (const [symbol, low, high] of ELEMENTS) {
    const text = (written[symbol] ?? "").trim().replace(",", ".").replace(/\s*%$/, "");
    if (text === "") {
      if (symbol === "C") errors[symbol] = "Carbon is needed.";
      continue;
    }
    const value = Number(text);
    if (!Number.isFinite(value)) errors[symbol] = "Not a number.";
    else if (value < low || value > high) errors[symbol] = `${low} to ${high} %`;
    else analysis[symbol] = value;
  }
  return { analysis, errors };
}

function OwnSteel({ onDone }: { onDone: (key: string) => void }) {
  const client = useQueryClient();
  const form = useForm<Written>({
    resolver: zodResolver(schema),
    defaultValues: { name: "", analysis: {} },
  });
  const add = useMutation({
    mutationFn: (body: { name: string; analysis: Record<string, number> }) =>
      take(api.POST("/api/v1/steels", { body: { id: uuid(), ...body } })),
    onSuccess: (steel) => {
      client.invalidateQueries({ queryKey: queries.steels.queryKey });
      onDone(steel.key);
    },
  });
  const server = add.error instanceof ApiError ? add.error.fields : {};
  const errors = form.formState.errors;
  return (
    <form
      className="own-steel"
      onSubmit={form.handleSubmit((written) => {
        const read = readAnalysis(written.analysis);
        for (const [symbol, message] of Object.entries(read.errors)) {
          form.setError(`analysis.${symbol}`, { message });
        }
        if (Object.keys(read.errors).length === 0) {
          add.mutate({ name: written.name, analysis: read.analysis });
        }
      })}
    >
      <Form.Group controlId="steel-name" className="field">
        <Form.Label>Name</Form.Label>
        <Form.Control {...form.register("name")} isInvalid={!!(errors.name ?? server.name)} />
        <div className="wrong">{errors.name?.message ?? server.name}</div>
      </Form.Group>
      {ELEMENTS.map(([symbol]) => {
        const error = errors.analysis?.[symbol]?.message ?? server[`analysis.${symbol}`];
        return (
          <Form.Group key={symbol} controlId={`element-${symbol}`} className="field element">
            <Form.Label>{symbol} %</Form.Label>
            <Form.Control
              className="num"
              inputMode="decimal"
              {...form.register(`analysis.${symbol}`)}
              isInvalid={!!error}
            />
            <div className="wrong">{error}</div>
          </Form.Group>
        );
      })}
      <Button type="submit" disabled={add.isPending}>
        Add steel
      </Button>
      {add.error && Object.keys(server).length === 0 && (
        <div className="wrong">{add.error.message}</div>
      )}
    </form>
  );
}

function Details({ steel }: { steel: SteelView }) {
  const { show, say } = useUnits();
  const analysis = Object.entries(steel.analysis).filter(([, v]) => v > 0);
  return (
    <article>
      <header className="head">
        <h1>{steel.name}</h1>
        <span className="soft">
          {steel.equivalent ? `${steel.equivalent} · ` : ""}
          {steel.family} · hardens in {HARDENING[steel.hardening]}
        </span>
      </header>
      <p className="num analysis">
        {analysis.map(([symbol, percent]) => (
          <span key={symbol}>
            {symbol} {percent}
          </span>
        ))}
      </p>
      {steel.estimate && (
        <p className="soft">
          Known by a coupon trial: carbon likely {steel.estimate.carbon[1]} % (
          {steel.estimate.carbon[0]} to {steel.estimate.carbon[2]}). Its own readings will narrow
          it.
        </p>
      )}
      {steel.house && !steel.estimate && (
        <p className="soft">
          Known by its analysis: critical temperatures by formula
          {steel.formulas_hold ? "" : ", outside the range they were made for"}, the rest from the
          steels most like it. The interval is {(steel.distance ?? 0) < 0.3 ? "a little" : "much"}{" "}
          wider until your own readings narrow it.
        </p>
      )}
      <h2>Windows</h2>
      <Windows steel={steel} />
      <p>
        Soak <b className="num">{show("time", steel.soak_s)}</b> from back at heat. Martensite
        starts at <b className="num">{show("temperature", Math.round(steel.martensite_start_c))}</b>
        . As quenched <b className="num">{hrc(steel.as_quenched_hrc)} HRC</b> with{" "}
        {Math.round(steel.retained_percent)} % austenite left; sub-zero: {SUB_ZERO[steel.sub_zero]}.
        Quench: {steel.water_then_oil ? "water then oil, " : ""}
        {steel.media.map((m) => MEDIA[m as keyof typeof MEDIA]).join(", ")}.
      </p>
      <h2>Hardness after two tempers of two hours</h2>
      <Curve steel={steel} />
      <h2>What it serves for</h2>
      <ul className="suits">
        {steel.suits.map((s) => (
          <li key={s.purpose}>
            <span aria-hidden="true">{s.well ? "✓" : "✗"}</span>
            <b>{capital(PURPOSES[s.purpose] ?? s.purpose)}</b>
            <span className="visually-hidden">{s.well ? ": serves. " : ": does not serve. "}</span>
            <span>{serves(s, say)}</span>
          </li>
        ))}
      </ul>
      <p className="soft">
        Typical published values, not a guarantee: each shop closes in on its own.
      </p>
    </article>
  );
}

/** What the shop has and knows of steels. */
export function SteelsPage() {
  const steels = useSteels();
  const [asked] = useSearchParams();
  const [chosen, setChosen] = useState(asked.get("steel") ?? "1084");
  const [adding, setAdding] = useState(false);
  const all = steels.data ?? [];
  const steel = all.find((s) => s.key === chosen) ?? all[0];
  const lists: [string, SteelView[]][] = [
    ["Your own", all.filter((s) => s.house)],
    ["Table", all.filter((s) => !s.house)],
  ];
  return (
    <div className="with-rack">
      <nav className="rack-side steel-list" aria-label="Steels">
        <SteelPlaces />
        {lists.map(([name, list]) => (
          <div key={name}>
            {(list.length > 0 || name === "Table") && <h3>{name}</h3>}
            {list.map((s) => (
              <button
                type="button"
                key={s.key}
                className={s.key === steel?.key ? "on" : ""}
                aria-current={s.key === steel?.key}
                onClick={() => {
                  setChosen(s.key);
                  setAdding(false);
                }}
              >
                <b>{s.name}</b>
                <span className="soft">{HARDENING[s.hardening]}</span>
              </button>
            ))}
          </div>
        ))}
      </nav>
      <main className="main page-in">
        <div className="row-of end">
          <Button
            variant="outline-primary"
            aria-expanded={adding}
            onClick={() => setAdding(!adding)}
          >
            {adding ? "Not now" : "Add your own steel"}
          </Button>
        </div>
        {adding && (
          <OwnSteel
            onDone={(key) => {
              setChosen(key);
              setAdding(false);
            }}
          />
        )}
        {steel && <Details steel={steel} />}
      </main>
    </div>
  );
}
