import { useQuery } from "@tanstack/react-query";
import { api, type Firing, take } from "../api/client";
import { useUnits } from "../quantity/units";
import { departure } from "../words/deviations";
import { hrc } from "../words/names";
import { percent } from "../words/quantities";
import css from "./firing.module.css";

/** Nearer than this to what is planned a temper stays as it is, °C. */
const WORTH_C = 3;
/** A chance of a crack is told where it went up by this. */
const MORE = 0.02;

/** Whether what comes of it can differ from what was foreseen: at heat and quenched, or said to be otherwise. */
function isWorth(firing: Firing): boolean {
  const { state } = firing;
  if (firing.closed_at && state.end === "mistake") return false;
  return state.quenched || (state.deviations?.length ?? 0) > 0 || state.said.length > 0;
}

/** What comes of it from here on, by what was done so far; and the temper for it. */
export function LookingAhead(props: {
  firing: Firing;
  onTemper: (step: number, temperature_c: number) => void;
}) {
  const { firing } = props;
  const { say } = useUnits();
  const { data } = useQuery({
    queryKey: ["outlook", firing.id, firing.version],
    queryFn: () =>
      take(api.GET("/api/v1/firings/{id}/outlook", { params: { path: { id: firing.id } } })),
    enabled: isWorth(firing),
    staleTime: Number.POSITIVE_INFINITY,
    // What was foreseen a press ago stands until the next is there.
    placeholderData: (before) => before,
    retry: false,
  });
  if (!data || !isWorth(firing)) return null;
  const { departures, temper, crack, crack_before } = data;
  const other = Math.abs(data.harder_hrc) >= 0.3;
  const to = temper?.wanted.temperature_c;
  const moved = temper && to ? to - temper.planned_c : 0;
  const cracks = crack && crack_before != null && crack - crack_before >= MORE;
  // Before the quench only what it costs is worth the room.
  if (!other && !cracks && !firing.state.quenched) return null;
  if (departures.length === 0 && !other) return null;
  return (
    <section className={css.caut} aria-label="From here on">
      <div>
        By what was done: {hrc(data.as_quenched.middle)} HRC as quenched,{" "}
        <b>{hrc(data.tempered.middle)}</b> at the end
        {other
          ? `, ${hrc(Math.abs(data.harder_hrc))} ${data.harder_hrc > 0 ? "harder" : "softer"} than foreseen.`
          : ", as foreseen."}
        {cracks ? ` Chance of a crack ${percent(crack)}, not ${percent(crack_before ?? 0)}.` : ""}
      </div>
      {departures.length > 0 && (
        <div className={css.dim}>{departures.map((d) => `${departure(d, say)}.`).join(" ")}</div>
      )}
      {temper && to && Math.abs(moved) >= WORTH_C && !firing.closed_at && (
        <div className={css.alt}>
          <button type="button" onClick={() => props.onTemper(temper.step, to)}>
            For {hrc(temper.wanted.wanted_hrc)} HRC temper at {say.temperature(to)},{" "}
            {say.difference(moved)} {moved > 0 ? "hotter" : "cooler"}
          </button>
        </div>
      )}
    </section>
  );
}
