import { Link } from "react-router";
import type { DayView } from "../api/client";
import { useUnits } from "../quantity/units";
import { asks, clockOn, type DayNames } from "../words/day";
import css from "./day.module.css";
import { byWhom } from "./moments";

/** What is next, for whom: the day without a drawing. */
export function NextList(props: { day: DayView; names: DayNames; most?: number }) {
  const { day, names, most = 60 } = props;
  const { say } = useUnits();
  const firings = new Map(day.blades.map((b) => [b.blade_id, b.firing_id]));
  return (
    <div className={css.whom}>
      {byWhom(day, day.now_s).map(({ who, moments }) => (
        <section key={who ?? ""} aria-label={who ? `Next for ${who}` : "For whoever is there"}>
          <h2>{who ?? "Whoever is there"}</h2>
          {moments.length === 0 && <p className="soft">Nothing is to be done.</p>}
          <ol>
            {moments.slice(0, most).map((m) => {
              const firing = firings.get(m.bar.blade);
              const mark = names.mark(m.bar.blade);
              return (
                <li key={`${m.bar.blade} ${m.bar.activity} ${m.which}`}>
                  <span className="num">{clockOn(m.from_s, day.now_s)}</span>
                  <span>
                    <Link to={firing ? `/firings/${firing}` : `/blades/${m.bar.blade}`}>
                      {mark}
                    </Link>{" "}
                    {asks(m.bar, m.which)}
                    {m.which === "in" && m.bar.heat_c != null && (
                      <span className="num"> {say.temperature(m.bar.heat_c)}</span>
                    )}
                    {m.bar.station && (
                      <span className="soft">, {names.station(m.bar.station)}</span>
                    )}
                  </span>
                </li>
              );
            })}
          </ol>
        </section>
      ))}
    </div>
  );
}
