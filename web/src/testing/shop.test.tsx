import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render } from "@testing-library/react";
import type { ReactNode } from "react";
import { MemoryRouter } from "react-router";
import { vi } from "vitest";
import type {
  Blade,
  Firing,
  Maps,
  Plan,
  Prediction,
  Session,
  SteelView,
  Step,
} from "../api/client";
import { UnitsProvider } from "../quantity/units";

/** What a pretend server was asked. */
export interface Asked {
  method: string;
  path: string;
  /** What is asked after the path, read. */
  query: Record<string, string>;
  body: unknown;
}

export type Answer = { status?: number; body: unknown };
type Route = (asked: Asked) => Answer | undefined;

/** A refusal that names its fields. */
export function refused(fields: { field: string; message: string; allowed?: string }[]): Answer {
  const detail = fields[0]?.message ?? "Refused.";
  return { status: 422, body: { status: 422, title: "Not possible", detail, fields } };
}

/** A pretend server: the first route that answers, answers. Everything asked is kept. */
export function serve(...routes: Route[]): Asked[] {
  const all: Asked[] = [];
  vi.stubGlobal("fetch", async (input: Request) => {
    const text = await input.text();
    const asked = {
      method: input.method,
      path: new URL(input.url).pathname,
      query: Object.fromEntries(new URL(input.url).searchParams),
      body: /^[[{]/.test(text) ? JSON.parse(text) : text || undefined,
    };
    all.push(asked);
    for (const route of [...routes, usual]) {
      const answer = route(asked);
      if (answer) {
        const status = answer.status ?? 200;
        const body = status === 204 ? null : JSON.stringify(answer.body);
        return new Response(body, { status, headers: { "Content-Type": "application/json" } });
      }
    }
    return new Response(JSON.stringify({ status: 404, title: "Not found", detail: "none" }), {
      status: 404,
      headers: { "Content-Type": "application/json" },
    });
  });
  return all;
}

export const steps: Step[] = [
  { kind: "normalize", temperature_c: 860, hold_s: 120 },
  { kind: "austenitize", temperature_c: 815, soak_s: 300 },
  { kind: "quench", stages: [{ medium: "fast_oil", bath_c: 50 }] },
  { kind: "temper", temperature_c: 205, hold_s: 7200, times: 2 },
];

export const blade: Blade = {
  id: "01900000-0000-7000-8000-0000000000b1",
  mark: "K-1",
  name: "Reed hook",
  steel: "1084",
  steel_name: "1084",
  shape: "reed_hook",
  length_mm: 190,
  width_mm: 28,
  spine_mm: 4,
  edge_mm: 0.8,
  grind: "flat",
  purpose: "all_round",
  target_low_hrc: 59,
  target_high_hrc: 61,
  note: "",
  version: 1,
  created_at: "2026-11-25T09:00:00Z",
  plan_frozen: false,
  firing_open: false,
  ready: {
    outline: null,
    taper: [],
    bevels: [],
    protection: "bare",
    beside: 0,
    order: "grind_first",
    checks: {},
  },
  outline: [
    [0, 0],
    [0, 28],
    [190, 28],
    [190, 0],
  ],
};

export const plan: Plan = { id: "p1", blade_id: blade.id, number: 1, steps, version: 3 };

export const session: Session = {
  person: {
    id: "01900000-0000-7000-8000-0000000000a1",
    name: "Ina",
    email: "ina@shop.example",
    role: "owner",
    created_at: "2026-01-05T08:00:00Z",
  },
  workshop: {
    id: "01900000-0000-7000-8000-0000000000a2",
    name: "Quay smithy",
    temperature_unit: "c",
    length_unit: "mm",
    time_zone: "Europe/Stockholm",
    version: 4,
  },
};

export const steel: SteelView = {
  key: "1084",
  name: "1084",
  equivalent: "",
  designations: [],
  family: "carbon",
  hardening: "oil",
  analysis: {
    C: 0.84,
    Si: 0.2,
    Mn: 0.8,
    Cr: 0,
    Ni: 0,
    Mo: 0,
    W: 0,
    V: 0,
    N: 0,
    Co: 0,
    Nb: 0,
    P: 0,
    S: 0,
  },
  ac1_c: 723,
  upper_c: 730,
  upper_is_ac3: false,
  normalize_c: 860,
  anneal_c: 680,
  austenitize_low_c: 800,
  austenitize_c: 815,
  austenitize_high_c: 830,
  coarsening_c: 900,
  soak_s: 300,
  media: ["fast_oil"],
  water_then_oil: false,
  sub_zero: "no",
  martensite_start_c: 168,
  as_quenched_hrc: 65,
  retained_percent: 12,
  temper_curve: [
    [120, 65],
    [205, 61.5],
    [600, 31],
  ],
  suits: (["fine_edge", "all_round", "heavy", "springy"] as const).map((purpose) => ({
    purpose,
    temper_c: purpose === "fine_edge" ? null : 220,
    well: purpose !== "fine_edge",
    low_hrc: 59,
    high_hrc: 61,
    how:
      purpose === "fine_edge"
        ? { code: "too_soft" as const, top_hrc: 60, coolest_c: 150 }
        : { code: "well" as const },
  })),
  house: false,
  formulas_hold: false,
  spread_hrc: 1.7,
  row_hrc: null,
  version: 0,
};

const interval = (middle: number) => ({ middle, low: middle - 1, high: middle + 1 });

/** A prediction that falls by 0.05 HRC for each degree of the temper. */
export function predicted(of: Step[]): Prediction {
  const temper = of.find((s) => s.kind === "temper");
  const t = temper?.kind === "temper" ? temper.temperature_c : 0;
  return {
    hardness: { as_quenched: interval(65), tempered: interval(61.5 - 0.05 * (t - 205)) },
    retained_austenite_percent: 12,
    retained_austenite: { with_plan: interval(12), without_sub_zero: interval(12) },
    through: { verdict: "hardens_through", critical_thickness_mm: 6, spine_mm: 4 },
    dissolved_carbon_percent: interval(0.82),
    levels: {
      ac1_c: interval(723),
      upper_c: interval(730),
      upper_is_ac3: false,
      curie_c: 770,
      martensite_start_c: interval(168),
      martensite_finish_c: -104,
    },
    temper_for_target: { wanted_hrc: 60, temperature_c: 235 },
    temper_colour: "straw",
    records_used: 5,
    reasons: [
      {
        about: "tempered",
        code: "oven_runs",
        station: "Kitchen oven",
        by_k: 9,
        effect_hrc: -0.6,
        learned: true,
      },
      {
        about: "retained_austenite",
        code: "cold_would_leave",
        cold_c: -75,
        percent: 6,
        effect_hrc: 0.5,
        learned: false,
      },
    ],
    warnings: [
      {
        code: "rising_heats",
        step: 0,
        rise_k: 30,
        fix: { change: "set", step: 0, kind: "normalize", field: "temperature_c", value: 800 },
      },
      { code: "thin_edge", edge_mm: 0.3, safe_mm: 0.5 },
    ],
  };
}

/** Maps of two columns: hard below, soft above. */
export const maps: Maps = {
  step_mm: 10,
  x0_mm: 0,
  y0_mm: 0,
  rows: 3,
  columns: [
    { first: 0, count: 3 },
    { first: 0, count: 3 },
  ],
  coarsened: false,
  thickness_um10: [80, 200, 400, 80, 200, 400],
  case_um10: [40, 100, 60, 40, 100, 0],
  hardness_tenths: [650, 630, 380, 650, 630, 380],
  hardened_percent: [100, 80, 5, 100, 60, 5],
  moments: [0, 1.5, 40].map((time_s, i) => ({
    time_s,
    temperature_c: [815, 815, 815, 815, 815, 815].map((t) => (i === 2 ? 20 : t - 200 * i)),
    martensite_percent: i === 2 ? [90, 70, 4, 90, 50, 4] : [0, 0, 0, 0, 0, 0],
  })),
  hamon: {
    points: [20, 100, 160].map((x_mm) => ({ x_mm, height_mm: 12, low_mm: 9, high_mm: 15 })),
    height_mm: 12,
    band_mm: 4,
    liveliness: 0.5,
  },
  crack_at_mm: [90, 1],
  bend_moments: [
    { time_s: 0.2, sori_mm: -0.4 },
    { time_s: 1.5, sori_mm: -1.2 },
    { time_s: 40, sori_mm: 0.8 },
  ],
  curvature: [
    [0, 0.1, 0],
    [100, 0.2, 0],
    [190, 0.1, 0],
  ],
  seconds: 40,
};

const HEAT = { kind: "austenitize", number: 1, count: 1 } as const;

export const firing: Firing = {
  id: "f1",
  blade_id: blade.id,
  mark: blade.mark,
  name: blade.name,
  steel_name: blade.steel_name,
  plan_id: plan.id,
  steps,
  order: steps.map((_, number) => number),
  extras: [],
  done: { steps, planned: [0, 1, 2, 3] },
  made: {
    steel: { of: "built_in", key: "1084" },
    blade: {
      shape: "reed_hook",
      length_mm: 190,
      width_mm: 28,
      spine_mm: 4,
      edge_mm: 0.8,
      grind: "flat",
    },
    mark: "K-1",
    name: "Reed hook",
    purpose: "all_round",
    target_hrc: [59, 61],
  },
  actions: [
    {
      step: 1,
      kind: { code: "into_fire" },
      doing: { code: "heating", heat: HEAT },
      caution: "hot",
      mark: "none",
      together: true,
    },
    {
      step: 1,
      kind: { code: "start_soak" },
      doing: { code: "soaking", heat: HEAT },
      lasts_s: 300,
      caution: "hot",
      mark: "hold_begins",
      together: true,
    },
    {
      step: 2,
      kind: { code: "into_bath", medium: "fast_oil" },
      doing: { code: "quenching", medium: "fast_oil" },
      caution: "oil",
      mark: "hold_ends",
      together: false,
    },
  ],
  state: {
    position: 0,
    confirmed_ms: [],
    confirmed_by: [],
    quenched: false,
    tempered: false,
    closed: false,
    said: [],
  },
  prediction: predicted(steps),
  started_at: "2026-11-25T09:00:00Z",
  now: [],
  version: 1,
};

/** What a shop with one blade and one tester answers when nothing else was said. */
const usual: Route = ({ method, path, body }) => {
  if (path === "/api/v1/predict") return { body: predicted((body as { steps: Step[] }).steps) };
  if (method !== "GET") return undefined;
  if (path === "/api/v1/session") return { body: session };
  if (path === "/api/v1/blades") return { body: [blade] };
  if (path === `/api/v1/blades/${blade.id}`) return { body: blade };
  if (path.endsWith("/plan")) return { body: plan };
  if (/\/(firings|readings|findings|photos|traces|edits|waiting)$/.test(path)) return { body: [] };
  if (path === "/api/v1/firings") return { body: [] };
  if (path === "/api/v1/now") return { body: { now_ms: Date.now() } };
  if (path === "/api/v1/bars" || path === "/api/v1/trials") return { body: [] };
  if (path.endsWith("/points")) return { body: [] };
  if (path === "/api/v1/steels") return { body: [steel] };
  if (path === "/api/v1/stations") {
    return {
      body: [
        { id: "k1", kind: "kiln", name: "Bench kiln", version: 1 },
        { id: "t1", kind: "tester", name: "Bench tester", version: 1 },
      ],
    };
  }
  return undefined;
};

/** Renders a part of the interface as a signed-in smith would see it. */
export function show(part: ReactNode, at = "/") {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  return render(
    <QueryClientProvider client={client}>
      <UnitsProvider shop={{ temperature: "c", length: "mm" }}>
        <MemoryRouter initialEntries={[at]}>{part}</MemoryRouter>
      </UnitsProvider>
    </QueryClientProvider>,
  );
}
