import { Link } from "react-router";
import { useDay } from "../api/queries";
import { coming, gathered, meant } from "../day/moments";
import { asks, clock, dayNames } from "../words/day";
import css from "./firing.module.css";
import { useWhose } from "./whose";

/** How many are told. */
const MOST = 3;

/** What is next across the blades of the day, and for whom. */
export function NextAcross({ bladeId, now }: { bladeId: string; now: number }) {
  const { data: day } = useDay();
  const mine = useWhose();
  if (!day?.blades.some((b) => b.blade_id === bladeId)) return null;
  const names = dayNames(day);
  const firings = new Map(day.blades.map((b) => [b.blade_id, b.firing_id]));
  const all = coming(day, now / 1000 - 600);
  // One's own first; then what comes next for anybody, so that a hand-over is seen.
  const own = meant(all, mine);
  const next = gathered([...own, ...all.filter((m) => !own.includes(m))]).slice(0, MOST);
  if (next.length === 0) return null;
  return (
    <ol className={css["next-across"]} aria-label="Next on the day">
      {next.map(({ first, blades }) => {
        const firing = firings.get(first.bar.blade);
        const other = mine && first.who && first.who !== mine;
        return (
          <li
            key={`${first.bar.blade} ${first.bar.activity} ${first.which}`}
            className={other ? css.dim : ""}
          >
            <span className="num">{clock(first.from_s)}</span>
            <Link to={firing ? `/firings/${firing}` : `/blades/${first.bar.blade}/fire`}>
              {blades.map(names.mark).join(", ")} {asks(first.bar, first.which)}
            </Link>
            <span className={css.dim}>{first.who ?? ""}</span>
          </li>
        );
      })}
    </ol>
  );
}
