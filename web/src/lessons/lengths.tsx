import { useDay } from "../api/queries";
import { dayNames } from "../words/day";
import { STEPS, span } from "../words/names";

/** Fewer than this tell little. */
const ENOUGH = 2;
/** Nearer than this to the usual it is as usual, as a share. */
const SAME = 0.07;

/** How long things really take here, and how much truer the next day is for it. */
export function Lengths() {
  const { data: day } = useDay();
  const known = (day?.learned ?? []).filter((l) => l.of >= ENOUGH);
  if (!day || known.length === 0) return null;
  const names = dayNames(day);
  return (
    <section aria-labelledby="lengths">
      <h2 id="lengths">How long things take</h2>
      <ul className="sentences">
        {known.map((l) => {
          const off = l.factor - 1;
          const what = STEPS[l.kind as keyof typeof STEPS] ?? l.kind;
          const where = l.station ? ` at ${names.station(l.station)}` : "";
          const heat = ["temper", "sub_zero"].includes(l.kind) ? "the way up to heat" : "it";
          return (
            <li key={`${l.kind} ${l.station}`}>
              {what}
              {where}: {heat} takes{" "}
              {Math.abs(off) < SAME
                ? "as long as is usual"
                : `${Math.round(Math.abs(off) * 100)} % ${off > 0 ? "longer" : "less"} than is usual`}{" "}
              ({l.of} times). A day laid by it is off by {span(l.learned_error_s)} each, not{" "}
              {span(l.usual_error_s)}.
            </li>
          );
        })}
      </ul>
    </section>
  );
}
