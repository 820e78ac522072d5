import type { Blade, DayView } from "../api/client";
import { Silhouette } from "../drawing/blade-drawing";
import { clockOn, type DayNames, doneIn } from "../words/day";
import css from "./day.module.css";
import { away, daysLater, type Window } from "./lanes";

const DAYS = 7;
/** What lies for long is worth its name in a week, s. */
const LONG_S = 3600;

/** A week: a line for each blade, for what dries, lies in the cold or tempers overnight. */
export function Week(props: {
  day: DayView;
  names: DayNames;
  blades: Map<string, Blade>;
  from_s: number;
  onDay: (midnight_s: number) => void;
}) {
  const { day, names, blades, from_s } = props;
  const shown: Window = { from_s, to_s: daysLater(from_s, DAYS) };
  const share = (s: number) => `${(100 * (s - shown.from_s)) / (shown.to_s - shown.from_s)}%`;
  const wide = (a: number, b: number) => `${(100 * (b - a)) / (shown.to_s - shown.from_s)}%`;
  const days = Array.from({ length: DAYS }, (_, i) => daysLater(from_s, i));
  const lines = day.blades.filter((b) => b.done_s != null);
  return (
    <>
      <div className={css.week}>
        <div className={css.label} />
        <div className={css.days}>
          {days.map((midnight) => (
            <button key={midnight} type="button" onClick={() => props.onDay(midnight)}>
              {new Date(midnight * 1000).toLocaleDateString("en-GB", {
                weekday: "short",
                day: "numeric",
                month: "short",
              })}
            </button>
          ))}
        </div>
        {lines.map((b) => {
          const blade = blades.get(b.blade_id);
          const bars = day.bars.filter(
            (bar) =>
              bar.blade === b.blade_id && bar.end_s > shown.from_s && bar.start_s < shown.to_s,
          );
          const long = bars.filter((bar) => bar.end_s - bar.start_s >= LONG_S);
          return (
            <div key={b.blade_id} className={css.lane}>
              <div className={css.label}>
                <b className="num">{b.mark}</b>
                {blade && <Silhouette outline={blade.outline} scale={0.14} />}
                <span className="soft">done {clockOn(b.done_s ?? 0, day.now_s)}</span>
              </div>
              <div className={css["week-track"]}>
                {bars.map((bar) => (
                  <span
                    key={bar.activity}
                    className={bar.end_s - bar.start_s >= LONG_S ? css.long : css.short}
                    style={{ left: share(bar.start_s), width: wide(bar.start_s, bar.end_s) }}
                  />
                ))}
                <span className="visually-hidden">
                  {long
                    .map((bar) => `${doneIn(bar, day)} until ${clockOn(bar.end_s, day.now_s)}`)
                    .join(", ")}
                </span>
              </div>
            </div>
          );
        })}
        <div className={css["day-over"]} aria-hidden="true">
          {days.map((midnight) => (
            <i key={midnight} style={{ left: share(midnight) }} />
          ))}
          {away(day, shown).map((w) => (
            <span
              key={w.from_s}
              className={css.night}
              style={{ left: share(w.from_s), width: wide(w.from_s, w.to_s) }}
            />
          ))}
          <i className={css["now-line"]} style={{ left: share(day.now_s) }} />
        </div>
      </div>
      <p className="soft">
        {lines
          .flatMap((b) =>
            day.bars.filter(
              (bar) =>
                bar.blade === b.blade_id &&
                bar.end_s - bar.start_s >= 4 * LONG_S &&
                bar.end_s > day.now_s,
            ),
          )
          .map(
            (bar) =>
              `${names.mark(bar.blade)} ${doneIn(bar, day).toLowerCase()} until ${clockOn(bar.end_s, day.now_s)}`,
          )
          .join(" · ")}
      </p>
    </>
  );
}
