import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import type { DayView } from "../api/client";
import { serverNow } from "../api/clock";
import { useDay } from "../api/queries";
import { coming, type Moment, meant } from "../day/moments";
import { asks, clock, dayNames } from "../words/day";
import css from "./firing.module.css";
import { chime } from "./wake";
import { whose } from "./whose";

/** So long ahead it is rung, s; what is nearer when the page is opened is told by the list. */
const AHEAD_S = 300;
const LATE_S = 120;
const LOOK_MS = 5_000;

const idOf = (m: Moment) => `${m.bar.blade} ${m.bar.activity} ${m.which}`;

/** What asks for hands in five minutes, and was not rung for. */
export function ahead(day: DayView, now_s: number, rung: ReadonlySet<string>): Moment[] {
  return meant(coming(day, now_s), whose()).filter((m) => {
    const left = m.from_s - now_s;
    return left <= AHEAD_S && left > AHEAD_S - LATE_S && !rung.has(idOf(m));
  });
}

/** Rings ahead of each moment of the day that asks for hands; what is pressed takes it away. */
export function Ahead({ quiet }: { quiet: boolean }) {
  const { data: day } = useDay();
  const rung = useRef(new Set<string>());
  const [shown, setShown] = useState<Moment[]>([]);
  useEffect(() => {
    if (!day || day.bars.length === 0) return;
    const look = () => {
      const now = ahead(day, serverNow() / 1000, rung.current);
      if (now.length === 0) return;
      for (const m of now) rung.current.add(idOf(m));
      chime();
      setShown((before) => [...before, ...now]);
    };
    look();
    const timer = setInterval(look, LOOK_MS);
    return () => clearInterval(timer);
  }, [day]);
  if (!day) return null;
  const names = dayNames(day);
  // What was done since, or is at another time by now, is no longer ahead.
  const left = coming(day, serverNow() / 1000);
  const standing = shown.filter((m) => left.some((l) => idOf(l) === idOf(m)));
  if (quiet || standing.length === 0) return null;
  const firings = new Map(day.blades.map((b) => [b.blade_id, b.firing_id]));
  return (
    <div className={css.ringing} role="alert">
      {standing.map((m) => {
        const firing = firings.get(m.bar.blade);
        const away = () => setShown((before) => before.filter((s) => idOf(s) !== idOf(m)));
        return (
          <div key={idOf(m)}>
            <Link to={firing ? `/firings/${firing}` : "/day"} onClick={away}>
              {clock(m.from_s)} {names.mark(m.bar.blade)} {asks(m.bar, m.which)}
              {m.who ? `, ${m.who}` : ""}
            </Link>
            <button type="button" onClick={away}>
              Heard
            </button>
          </div>
        );
      })}
    </div>
  );
}
