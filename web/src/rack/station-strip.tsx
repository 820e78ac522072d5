import { Link } from "react-router";
import { useDay } from "../api/queries";
import { useUnits } from "../quantity/units";
import { clockOn, dayNames } from "../words/day";
import { capital } from "../words/names";
import css from "./rack.module.css";

/** What is in each station of the day, how hot it is, and when it is free. */
export function StationStrip() {
  const { data: day } = useDay();
  const { say } = useUnits();
  if (!day || day.bars.length === 0) return null;
  const names = dayNames(day);
  const now = day.now_s;
  const used = day.stations.filter((s) =>
    day.bars.some((b) => b.station === s.id && b.end_s > now && b.start_s < now + 86_400),
  );
  if (used.length === 0) return null;
  return (
    <section className={css["station-strip"]} aria-label="Stations of the day">
      <h2>
        <Link to="/day">The day</Link>
      </h2>
      <ul>
        {used.map((s) => {
          const here = day.bars.filter((b) => b.station === s.id);
          const within = here.filter((b) => b.standing === "running");
          const next = here.find((b) => b.standing === "coming");
          const heat = within.find((b) => b.heat_c != null)?.heat_c;
          return (
            <li key={s.id}>
              <b>{capital(names.station(s.id))}</b>
              <span>
                {within.length > 0
                  ? `${[...new Set(within.map((b) => names.mark(b.blade)))].join(", ")}${heat == null ? "" : ` at ${say.temperature(heat)}`}`
                  : "empty"}
              </span>
              <span className="soft">
                {within.length > 0
                  ? `until ${clockOn(Math.max(...within.map((b) => b.leave_s)), now)}`
                  : next
                    ? `${names.mark(next.blade)} at ${clockOn(next.start_s, now)}`
                    : "free"}
              </span>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
