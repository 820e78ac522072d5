import { type KeyboardEvent, type PointerEvent, useRef } from "react";
import type { Blade, DayBar, DayView } from "../api/client";
import { Silhouette } from "../drawing/blade-drawing";
import { useWidth } from "../drawing/heat-path";
import { clock, clockOn, type DayNames, doneIn } from "../words/day";
import { capital } from "../words/names";
import css from "./day.module.css";
import { Glow } from "./glow";
import { away, type Lane, lanesOf, overlaps, type Window } from "./lanes";
import { momentsOf } from "./moments";

/** What tells a bar from the others. */
export const keyOf = (bar: Pick<DayBar, "blade" | "activity">) => `${bar.blade} ${bar.activity}`;

/** Keys and hands move a bar by whole steps of this, s. */
export const STEP_S = 300;
/** A bar is at least so wide, px: a quench of a minute can be seen and pressed. */
const LEAST_PX = 13;
/** A bar narrower than this does not say the whole mark, px. */
const SAYS_PX = 50;
/** And narrower than this nothing at all; between them the end of the mark. */
const SHORT_PX = 25;
/** A row of a lane, and the glow under it, px; the style sheet has the same. */
const ROW_PX = 27;
const GLOW_PX = 17;
/** A row of what is in the air, px. */
const AIR_PX = 12;
/** The pointer has to go so far before a press is a drag, px. */
const DRAG_PX = 4;

interface Props {
  day: DayView;
  names: DayNames;
  blades: Map<string, Blade>;
  shown: Window;
  /** The bar that is chosen. */
  chosen: string | null;
  onChoose: (key: string) => void;
  /** Where bars are that were moved and not answered yet, s. */
  moved: ReadonlyMap<string, number>;
  onMove: (bar: DayBar, start_s: number) => void;
  onPin: (bar: DayBar) => void;
}

const STANDS: Record<DayBar["standing"], string | undefined> = {
  done: css["bar-done"],
  running: css["bar-running"],
  coming: css["bar-coming"],
};

/** A label of the hours needs so much, px. */
const HOUR_PX = 46;

/** The hours of a window, so many apart that they can be read. */
function hoursOf({ from_s, to_s }: Window, scale: number): number[] {
  const apart = [1, 2, 3, 6, 12].find((h) => h * 3600 * scale >= HOUR_PX) ?? 24;
  const hours: number[] = [];
  for (let at = Math.ceil(from_s / 3600) * 3600; at <= to_s; at += 3600 * apart) hours.push(at);
  return hours;
}

/** One bar: a blade at a station. */
function Bar(props: Props & { bar: DayBar; row: number; scale: number; tabbed: boolean }) {
  const { bar, row, scale, day, names, shown, chosen, moved, tabbed } = props;
  const key = keyOf(bar);
  const start_s = moved.get(key) ?? bar.start_s;
  const end_s = start_s + bar.end_s - bar.start_s;
  const left = Math.max(0, (start_s - shown.from_s) * scale);
  const over = end_s > shown.to_s;
  const to_s = Math.min(end_s, shown.to_s);
  const width = Math.max(LEAST_PX, (to_s - Math.max(start_s, shown.from_s)) * scale - 1);
  const from = useRef<{ x: number; start_s: number; drags: boolean } | null>(null);
  const movable = bar.standing === "coming";
  const at = (event: PointerEvent) => {
    const by = (event.clientX - (from.current?.x ?? 0)) / scale;
    return (from.current?.start_s ?? 0) + Math.round(by / STEP_S) * STEP_S;
  };
  const down = (event: PointerEvent<HTMLButtonElement>) => {
    if (!movable || event.button !== 0) return;
    from.current = { x: event.clientX, start_s, drags: false };
    event.currentTarget.setPointerCapture?.(event.pointerId);
  };
  const move = (event: PointerEvent) => {
    const begun = from.current;
    if (!begun) return;
    begun.drags ||= Math.abs(event.clientX - begun.x) > DRAG_PX;
    if (begun.drags) props.onMove(bar, at(event));
  };
  const up = () => {
    from.current = null;
  };
  const blade = props.blades.get(bar.blade);
  const place = bar.station ? names.station(bar.station) : "in the air";
  const says = `${names.mark(bar.blade)}, ${doneIn(bar, day)}, ${place}, ${clock(start_s)} to ${clock(end_s)}, ${bar.standing === "coming" ? "to come" : bar.standing === "running" ? "goes on" : "done"}${bar.pinned ? ", pinned" : ""}`;
  return (
    <button
      type="button"
      data-bar={key}
      className={`${css.bar} ${STANDS[bar.standing]}${chosen === key ? " on" : ""}${bar.station ? "" : ` ${css.air}`}`}
      style={{ left, width, top: row * (bar.station ? ROW_PX : AIR_PX) }}
      tabIndex={tabbed ? 0 : -1}
      aria-label={says}
      title={says}
      aria-pressed={chosen === key}
      onClick={() => props.onChoose(key)}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={up}
    >
      {width > SHORT_PX && bar.station && (
        <span className="num">
          {width > SAYS_PX ? names.mark(bar.blade) : names.mark(bar.blade).slice(-3)}
        </span>
      )}
      {blade && bar.station && width > (over ? 190 : 110) && (
        <Silhouette outline={blade.outline} scale={0.2} />
      )}
      {over && width > 130 && <span className={css.on}>until {clockOn(end_s, shown.from_s)}</span>}
      {bar.pinned && (
        <svg className={css.pin} viewBox="0 0 8 10" aria-hidden="true">
          <path d="M1 0h6v4l1 2H0l1-2zM3.5 6h1v4h-1z" />
        </svg>
      )}
    </button>
  );
}

function LaneLabel({ lane, names, day }: { lane: Lane; names: DayNames; day: DayView }) {
  const { station } = lane;
  if (!station) {
    return (
      <div className={css.label}>
        <span className="soft">In the air</span>
      </div>
    );
  }
  const free = station.free_s != null && station.free_s > day.now_s ? station.free_s : null;
  return (
    <div className={css.label}>
      <b>{capital(names.station(station.id))}</b>
      <span className="soft">
        {station.presumed
          ? "not in Stations yet"
          : station.kind && free
            ? `free ${clockOn(free, day.now_s)}`
            : ""}
      </span>
    </div>
  );
}

/** When somebody is there, and each moment that asks for their hands. */
function HandsLane(props: {
  operator: DayView["operators"][number];
  day: DayView;
  shown: Window;
  chosen: string | null;
  x: (at_s: number) => number;
  width: number;
}) {
  const { operator, day, shown, chosen, x, width } = props;
  const inSight = ([a, b]: number[]) => (a ?? 0) < shown.to_s && (b ?? 0) > shown.from_s;
  const there = operator.hours.filter(inSight);
  const stretch = ([a, b]: number[], name: string | undefined) => {
    const [from, to] = [Math.max(0, x(a ?? 0)), Math.min(width, x(b ?? 0))];
    return to > from ? (
      <span key={`${name} ${a}`} className={name} style={{ left: from, width: to - from }} />
    ) : null;
  };
  const moments = day.bars
    .filter((b) => overlaps(b, shown))
    .flatMap(momentsOf)
    .filter((m) => m.who === operator.name && m.to_s > shown.from_s && m.from_s < shown.to_s);
  return (
    <div className={css.lane}>
      <div className={css.label}>
        <b>{operator.name}</b>
        <span className="soft">
          {there.length === 0
            ? "away"
            : there.map(([a, b]) => `${clock(a ?? 0)}–${clock(b ?? 0)}`).join(", ")}
        </span>
      </div>
      <div className={`${css.track} ${css.hands}`}>
        {there.map((w) => stretch(w, css.there))}
        {operator.breaks.filter(inSight).map((w) => stretch(w, css.pause))}
        {moments.map((m) => (
          <span
            key={`${keyOf(m.bar)} ${m.which}`}
            className={`${css.hand}${keyOf(m.bar) === chosen ? " on" : ""}`}
            style={{ left: x(m.from_s), width: Math.max(3, x(m.to_s) - x(m.from_s)) }}
          />
        ))}
      </div>
    </div>
  );
}

/** Several blades over a day: a lane for each of the people and each of the stations. */
export function Timeline(props: Props) {
  const { day, names, shown, chosen } = props;
  const [track, width] = useWidth<HTMLDivElement>(1000);
  const scale = width / (shown.to_s - shown.from_s);
  const lanes = lanesOf(day, shown, LEAST_PX / scale);
  const all = lanes.flatMap((l) => l.bars.map((p) => p.bar));
  const keys = new Set(all.map(keyOf));
  const tabbed = chosen && keys.has(chosen) ? chosen : all[0] ? keyOf(all[0]) : null;
  const x = (at_s: number) => (at_s - shown.from_s) * scale;
  const inSight = day.now_s >= shown.from_s && day.now_s <= shown.to_s;

  const choose = (bar: DayBar | undefined) => {
    if (!bar) return;
    props.onChoose(keyOf(bar));
    document.querySelector<HTMLElement>(`[data-bar="${keyOf(bar)}"]`)?.focus();
  };
  const keyed = (event: KeyboardEvent) => {
    const bar = all.find((b) => keyOf(b) === tabbed);
    if (!bar || event.ctrlKey || event.metaKey || event.altKey) return;
    const start_s = props.moved.get(keyOf(bar)) ?? bar.start_s;
    const sideways = event.key === "ArrowLeft" ? -1 : event.key === "ArrowRight" ? 1 : 0;
    const upwards = event.key === "ArrowUp" ? -1 : event.key === "ArrowDown" ? 1 : 0;
    if (sideways && event.shiftKey) {
      if (bar.standing === "coming") props.onMove(bar, start_s + sideways * STEP_S);
    } else if (sideways) {
      const inTime = [...all].sort((a, b) => a.start_s - b.start_s);
      choose(inTime[inTime.indexOf(bar) + sideways]);
    } else if (upwards) {
      const filled = lanes.filter((l) => l.bars.length > 0);
      const lane = filled.findIndex((l) => l.bars.some((p) => p.bar === bar));
      const next = filled[lane + upwards]?.bars.map((p) => p.bar) ?? [];
      const near = (b: DayBar) => Math.abs(b.start_s - bar.start_s);
      choose([...next].sort((a, b) => near(a) - near(b))[0]);
    } else if (event.key.toLowerCase() === "p" && bar.standing === "coming") {
      props.onPin(bar);
    } else return;
    event.preventDefault();
  };

  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the keys of the buttons in it are heard here
    <div className={css.timeline} onKeyDown={keyed}>
      <div className={css.label} />
      <div className={css.hours} ref={track}>
        {hoursOf(shown, scale).map((at) => (
          <span key={at} className="num" style={{ left: x(at) }}>
            {clock(at)}
          </span>
        ))}
        {inSight && (
          <span className={css["now-label"]} style={{ left: x(day.now_s) }}>
            now
          </span>
        )}
      </div>
      {day.operators.map((o) => (
        <HandsLane key={o.name} operator={o} {...props} x={x} width={width} />
      ))}
      {lanes.map((lane) => {
        const { station } = lane;
        const fire = station?.heats_in_s != null;
        const row_px = station ? ROW_PX : AIR_PX;
        return (
          <div key={station?.id ?? ""} className={css.lane}>
            <LaneLabel lane={lane} names={names} day={day} />
            <div
              className={css.track}
              style={{ height: lane.rows * row_px + (fire ? GLOW_PX : 0) + 3 }}
            >
              {station && fire && <Glow station={station} shown={shown} width={width} />}
              {lane.bars.map(({ bar, row }) => (
                <Bar
                  key={keyOf(bar)}
                  {...props}
                  bar={bar}
                  row={row}
                  scale={scale}
                  tabbed={keyOf(bar) === tabbed}
                />
              ))}
            </div>
          </div>
        );
      })}
      <div className={css["day-over"]} aria-hidden="true">
        {hoursOf(shown, scale).map((at) => (
          <i key={at} style={{ left: x(at) }} />
        ))}
        {away(day, shown).map((w) => (
          <span
            key={w.from_s}
            className={css.night}
            style={{ left: x(w.from_s), width: (w.to_s - w.from_s) * scale }}
          />
        ))}
        {inSight && <i className={css["now-line"]} style={{ left: x(day.now_s) }} />}
      </div>
    </div>
  );
}
