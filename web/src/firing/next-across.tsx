import { Link } from "react-router";
import { useDay } from "../api/queries";
import { coming } from "../day/moments";
import { asks, clock, dayNames } from "../words/day";
import css from "./firing.module.css";

/** How many are told. */
const MOST = 3;

/** What is next across the blades of the day, and for whom. */
export function NextAcross({ bladeId, now }: { bladeId: string; now: number }) {
  const { data: day } = useDay();
  if (!day?.blades.some((b) => b.blade_id === bladeId)) return null;
  const names = dayNames(day);
  const firings = new Map(day.blades.map((b) => [b.blade_id, b.firing_id]));
  const next = coming(day, now / 1000 - 600).slice(0, MOST);
  if (next.length === 0) return null;
  return (
    <ol className={css["next-across"]} aria-label="Next on the day">
      {next.map((m) => {
        const firing = firings.get(m.bar.blade);
        return (
          <li key={`${m.bar.blade} ${m.bar.activity} ${m.which}`}>
            <span className="num">{clock(m.from_s)}</span>
            <Link to={firing ? `/firings/${firing}` : `/blades/${m.bar.blade}/fire`}>
              {names.mark(m.bar.blade)} {asks(m.bar, m.which)}
            </Link>
            <span className={css.dim}>{m.who ?? ""}</span>
          </li>
        );
      })}
    </ol>
  );
}
