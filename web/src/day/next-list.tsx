import { Link } from "react-router";
import type { DayView } from "../api/client";
import { useWhose } from "../firing/whose";
import { useUnits } from "../quantity/units";
import { asks, clockOn, type DayNames } from "../words/day";
import css from "./day.module.css";
import { dayOf } from "./lanes";
import { byWhom, gathered } from "./moments";

const mineFirst = <T extends { who: string | null }>(all: T[], mine: string | null): T[] => [
  ...all.filter((w) => w.who === mine),
  ...all.filter((w) => w.who !== mine),
];

/** What is next, for whom: the day without a drawing. */
export function NextList(props: {
  day: DayView;
  names: DayNames;
  /** The day that is printed. */
  midnight: number;
  most?: number;
}) {
  const { day, names, midnight, most = 60 } = props;
  const { say } = useUnits();
  const mine = useWhose();
  const firings = new Map(day.blades.map((b) => [b.blade_id, b.firing_id]));
  return (
    <div className={css.whom}>
      {mineFirst(byWhom(day, day.now_s), mine).map(({ who, moments }) => (
        <section key={who ?? ""} aria-label={who ? `Next for ${who}` : "For whoever is there"}>
          <h2>{who ?? "Whoever is there"}</h2>
          {moments.length === 0 && <p className="soft">Nothing is to be done.</p>}
          <ol>
            {gathered(moments)
              .slice(0, most)
              .map(({ first, blades }) => (
                <li
                  key={`${first.bar.blade} ${first.bar.activity} ${first.which}`}
                  className={dayOf(first.from_s) === midnight ? "" : css["other-day"]}
                >
                  <span className="num">{clockOn(first.from_s, day.now_s)}</span>
                  <span>
                    {blades.map((blade, i) => {
                      const firing = firings.get(blade);
                      return (
                        <span key={blade}>
                          {i > 0 && ", "}
                          <Link to={firing ? `/firings/${firing}` : `/blades/${blade}`}>
                            {names.mark(blade)}
                          </Link>
                        </span>
                      );
                    })}{" "}
                    {asks(first.bar, first.which)}
                    {first.which === "in" && first.bar.heat_c != null && (
                      <span className="num"> {say.temperature(first.bar.heat_c)}</span>
                    )}
                    {first.bar.station && (
                      <span className="soft">, {names.station(first.bar.station)}</span>
                    )}
                  </span>
                </li>
              ))}
          </ol>
        </section>
      ))}
    </div>
  );
}
