import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Blade, type PlaceHistory, problemOf, type Step, take } from "../api/client";
import { useSettled } from "../draft/settled";
import { RadioRow } from "../fields/radio-row";
import { described, upToQuench } from "../prediction/prediction";
import { useUnits } from "../quantity/units";
import type { Say } from "../words/quantities";
import { heights, type Outline, READ_ALONG, READ_AT } from "./blade-drawing";
import css from "./drawing.module.css";

const WIDE = 620;
const HIGH = 190;
/** Room for the stress under the temperatures. */
const STRESS_HIGH = 64;
const LEFT = 58;
const HOT_C = 900;

type At = [number, number];

/** Where a curve can be asked for without a pointer. */
const PLACES = { read: "where it is read", edge: "the edge", spine: "the spine" } as const;
type Place = keyof typeof PLACES;
const UP: Record<Place, number> = { read: READ_AT, edge: 0.04, spine: 0.94 };

/** What a place goes through; the newest question counts. */
function usePlace(blade: Blade, steps: Step[] | undefined, at: At) {
  const asked = useSettled(
    JSON.stringify([described(blade), upToQuench(steps ?? []), at.map((v) => Math.round(v))]),
    120,
  );
  return useQuery({
    queryKey: ["maps", "place", asked],
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => {
      const [what, upTo, point] = JSON.parse(asked) as [ReturnType<typeof described>, Step[], At];
      const body = { ...what, steps: upTo, points: [point] };
      return take(api.POST("/api/v1/simulate/place", { signal, body }));
    },
  });
}

const log = (s: number) => Math.log10(Math.max(s, 0.1));

/** Fastest cooling of the middle above a temperature, K/s. */
const fastest = (of: PlaceHistory) => Math.max(...of.moments.map((m) => m.cooling_k_s), 0);

const percent = (share: number) => `${Math.round(100 * share)} %`;

/** What the place has become, largest first. */
export function became(of: PlaceHistory): string {
  const end = of.moments.at(-1)?.middle;
  if (!end) return "";
  const austenite = 1 - end.martensite - end.bainite - end.pearlite;
  const parts: [string, number][] = [
    ["martensite", end.martensite],
    ["bainite", end.bainite],
    ["pearlite", end.pearlite],
    ["austenite", austenite],
  ];
  return parts
    .filter(([, share]) => share >= 0.005)
    .sort((a, b) => b[1] - a[1])
    .map(([name, share]) => `${percent(share)} ${name}`)
    .join(", ");
}

/** How the place passes the start line of pearlite or bainite, in words. */
export function passes(of: PlaceHistory, say: Say): string {
  const nose = of.starts
    .flatMap((s) =>
      [s.pearlite_s, s.bainite_s].map((t) => [t ?? Infinity, s.temperature_c] as const),
    )
    .reduce((a, b) => (b[0] < a[0] ? b : a), [Infinity, 0] as const);
  const there = of.moments.find((m) => m.middle.temperature_c <= nose[1]);
  if (!there || !Number.isFinite(nose[0])) return "";
  const s = (v: number) => (v < 10 ? v.toFixed(1) : v.toFixed(0));
  return `It passes ${say.temperature(nose[1])}, where this steel turns soonest, after ${s(Math.max(0, there.time_s))} s; held there the first of it turns in ${s(nose[0])} s.`;
}

function Curves({ of, now }: { of: PlaceHistory; now: number }) {
  const { show } = useUnits();
  const ends = Math.max(of.moments.at(-1)?.time_s ?? 10, 10);
  const decades = log(1.5 * ends) + 1;
  const x = (s: number) => LEFT + ((log(s) + 1) / decades) * (WIDE - LEFT - 6);
  const y = (c: number) => 8 + (1 - Math.min(c, HOT_C) / HOT_C) * (HIGH - 16);
  const line = (points: (readonly [number, number])[]) =>
    points.map(([a, b]) => `${a.toFixed(1)},${b.toFixed(1)}`).join(" ");
  const start = (which: "pearlite_s" | "bainite_s") =>
    of.starts.flatMap((s) => {
      const seconds = s[which];
      return seconds && seconds <= 1.5 * ends ? [[x(seconds), y(s.temperature_c)] as const] : [];
    });
  const way = (which: "face" | "middle") =>
    line(of.moments.map((m) => [x(m.time_s), y(m[which].temperature_c)]));
  const most = Math.max(
    100,
    ...of.moments.flatMap((m) => [Math.abs(m.face.stress_mpa), Math.abs(m.middle.stress_mpa)]),
  );
  const zero = HIGH + 10 + STRESS_HIGH / 2;
  const up = (mpa: number) => zero - (0.48 * STRESS_HIGH * mpa) / most;
  const pull = (which: "face" | "middle") =>
    line(of.moments.map((m) => [x(m.time_s), up(m[which].stress_mpa)]));
  const named = (points: (readonly [number, number])[], name: string) => {
    const nose = points.reduce<readonly [number, number] | undefined>(
      (a, b) => (!a || b[0] < a[0] ? b : a),
      undefined,
    );
    return (
      nose &&
      nose[0] < WIDE - 110 && (
        <text className="note" x={nose[0] + 6} y={nose[1] + 4}>
          {name}
        </text>
      )
    );
  };
  const [pearlite, bainite] = [start("pearlite_s"), start("bainite_s")];
  const martensite = y(of.martensite_start_c);
  return (
    <svg
      className={css["place-curves"]}
      viewBox={`0 0 ${WIDE} ${HIGH + STRESS_HIGH + 34}`}
      aria-hidden="true"
    >
      {[200, 400, 600, 800].map((c) => (
        <g key={c}>
          <line className={css.even} x1={LEFT} x2={WIDE - 6} y1={y(c)} y2={y(c)} />
          <text className="note" x={LEFT - 6} y={y(c) + 4} textAnchor="end">
            {show("temperature", c).replace(/\s.*/, "°")}
          </text>
        </g>
      ))}
      {Array.from({ length: Math.floor(decades) + 1 }, (_, i) => 10 ** (i - 1)).map((s) => (
        <g key={s}>
          <line className={css.even} x1={x(s)} x2={x(s)} y1={8} y2={HIGH + 10 + STRESS_HIGH} />
          <text className="note" x={x(s)} y={HIGH + STRESS_HIGH + 26} textAnchor="middle">
            {s < 1 ? "0.1 s" : `${s} s`}
          </text>
        </g>
      ))}
      <polyline className={css.start} points={line(pearlite)} />
      <polyline className={css.start} points={line(bainite)} />
      {named(pearlite, "pearlite starts")}
      {named(bainite, "bainite starts")}
      <line className={css.start} x1={LEFT} x2={WIDE - 6} y1={martensite} y2={martensite} />
      <text className="note" x={LEFT + 4} y={martensite - 4}>
        martensite starts
      </text>
      <polyline className={css.face} points={way("face")} />
      <polyline className={css.middle} points={way("middle")} />
      <line className={css.even} x1={LEFT} x2={WIDE - 6} y1={zero} y2={zero} />
      <text className="note" x={LEFT - 6} y={zero - 0.3 * STRESS_HIGH} textAnchor="end">
        drawn
      </text>
      <text className="note" x={LEFT - 6} y={zero + 0.42 * STRESS_HIGH} textAnchor="end">
        pressed
      </text>
      <polyline className={css.face} points={pull("face")} />
      <polyline className={css.middle} points={pull("middle")} />
      <line className={css.now} x1={x(now)} x2={x(now)} y1={8} y2={HIGH + 10 + STRESS_HIGH} />
    </svg>
  );
}

/** One place through the quench: its temperature and stress against this steel's start lines. */
export function PlaceThrough(props: {
  blade: Blade;
  outline: Outline;
  steps: Step[] | undefined;
  /** Where the pointer rests, mm. */
  pointed: At | null;
  /** The moment that the drawing shows, s. */
  now: number;
}) {
  const { blade, outline, steps, pointed, now } = props;
  const { show, about, say } = useUnits();
  const [place, setPlace] = useState<Place>("read");
  const [low = 0, high = blade.width_mm] = heights(outline, READ_ALONG * blade.length_mm) ?? [];
  const at: At = pointed ?? [READ_ALONG * blade.length_mm, low + UP[place] * (high - low)];
  const query = usePlace(blade, steps, at);
  const of = query.data?.[0];
  const near = of?.moments.reduce((a, b) =>
    Math.abs(b.time_s - now) < Math.abs(a.time_s - now) ? b : a,
  );
  const stress = (mpa: number) =>
    Math.abs(mpa) < 5
      ? "at rest"
      : `${mpa > 0 ? "drawn" : "pressed"} with ${Math.round(Math.abs(mpa))} MPa`;
  return (
    <section className={css["one-place"]} aria-label="One place through the quench">
      <RadioRow
        label="Its curve at"
        name="place-of"
        options={PLACES}
        value={place}
        onChange={setPlace}
      >
        <span className="soft">or touch the blade</span>
      </RadioRow>
      {query.error && <p role="alert">{problemOf(query.error)}</p>}
      {of && near && (
        <>
          <Curves of={of} now={now} />
          <p className="soft" aria-live="polite">
            {about(of.at_mm[0] ?? 0)} from the heel, {about(of.thickness_mm)} thick
            {of.clay_mm > 0.05 && `, under ${about(of.clay_mm)} of clay`}: {became(of)}. Cools by{" "}
            {say.difference(fastest(of))}/s at most. {passes(of, say)} Now{" "}
            {show("temperature", near.face.temperature_c)} at the face,{" "}
            {stress(near.face.stress_mpa)}; {show("temperature", near.middle.temperature_c)} in the
            middle, {stress(near.middle.stress_mpa)}. Thick line: the middle; thin: the face.
          </p>
        </>
      )}
    </section>
  );
}
