import { useState } from "react";
import type { Deviation, DoNow, Firing, Sighting } from "../api/client";
import { useUnits } from "../quantity/units";
import { told } from "../readings/finding-kinds";
import { choice, deviation } from "../words/deviations";
import { doNow } from "../words/found";
import { sighting } from "../words/sightings";
import { choices } from "./choices";
import css from "./firing.module.css";
import type { What } from "./press";
import { clock, type Odd } from "./timing";
import { lastDeviation } from "./together";

/** What was seen last, to be taken back. */
export function KeptSight(props: { by: Sighting; onTakeBack: () => void }) {
  return (
    <div className={css["kept-sight"]} role="status">
      <span>Kept: {sighting(props.by)}.</span>
      <button type="button" onClick={props.onTakeBack}>
        Take it back
      </button>
    </div>
  );
}

/** Thickest shim in a clamp, mm. */
const THICKEST_MM = 20;

/** What a finding asks for, as one press, where the plan can be changed by it. */
function DoIt(props: { firing: Firing; now: DoNow; onDo: (what: What[]) => void }) {
  const { firing, now, onDo } = props;
  const deviate = (all: Deviation[]) => onDo(all.map((how) => ({ kind: "deviate", how })));
  const [asked, setAsked] = useState(false);
  if (now.code === "stop") {
    return (
      <button
        type="button"
        className={asked ? css.asking : ""}
        onClick={() => (asked ? onDo([{ kind: "close", end: "abandoned" }]) : setAsked(true))}
      >
        {asked ? "Give it up for good: press again" : "Give it up"}
      </button>
    );
  }
  if (now.code === "harden_again") {
    const way = choices(firing).find((c) => c.what === "harden_again" && c.from !== "austenitize");
    return way ? (
      <button type="button" onClick={() => deviate(way.how)}>
        {choice(way)}
      </button>
    ) : null;
  }
  if (now.code === "straighten" && now.shim_mm) {
    const { actions, steps } = firing;
    const ahead = actions.slice(firing.state.position).find((a) => a.mark === "tempering");
    const step = ahead && steps[ahead.step];
    if (!ahead || step?.kind !== "temper" || step.clamp) return null;
    const shim_mm = Math.min(THICKEST_MM, Math.round(100 * now.shim_mm) / 100);
    return (
      <button
        type="button"
        onClick={() => deviate([{ deviation: "clamp", step: ahead.step, shim_mm }])}
      >
        Clamp it so in the temper
      </button>
    );
  }
  return null;
}

/** What was found last since it stands where it stands, and what that asks for now. */
export function LastFound(props: {
  firing: Firing;
  onTakeBack: (id: string) => void;
  onDo: (what: What[]) => void;
}) {
  const { firing, onTakeBack } = props;
  const { about, say } = useUnits();
  const all = firing.state.found ?? [];
  const last = all.at(-1);
  if (!last) return null;
  // A finding that the server has not seen yet asks for nothing yet.
  const now = firing.now[all.length - 1];
  const strong = now?.code === "stop" || now?.code === "harden_again";
  return (
    <div className={strong ? `${css.caut} ${css.strong}` : css.caut} role="status">
      <div>{told(last.found, about)}.</div>
      {now && <div>{doNow(now, say)}</div>}
      {!firing.closed_at && (
        <div className={css.alt}>
          {now && <DoIt firing={firing} now={now} onDo={props.onDo} />}
          <button type="button" onClick={() => onTakeBack(last.event)}>
            Take it back
          </button>
        </div>
      )}
    </div>
  );
}

/** How it left the plan since the last press, to be taken back. */
export function LastDeviation({ firing, onTakeBack }: { firing: Firing; onTakeBack: () => void }) {
  const { say } = useUnits();
  const last = lastDeviation(firing);
  if (!last || firing.closed_at) return null;
  return (
    <div className={css["kept-sight"]} role="status">
      <span>{deviation(last, firing.steps, say)}.</span>
      <button type="button" onClick={onTakeBack}>
        Take it back
      </button>
    </div>
  );
}

/** That it is far too early or late, asked once. */
export function Asking(props: { odd: Odd; since?: number; lasts?: number; now: number }) {
  const gone = clock((props.now - (props.since ?? props.now)) / 1000);
  const of = clock(props.lasts ?? 0);
  return (
    <span className={css["how-many"]} role="alert">
      {props.odd === "early"
        ? `Only ${gone} of ${of}: press again`
        : `${gone} for ${of}: press again`}
    </span>
  );
}
