import { Link } from "react-router";
import type { Firing } from "../api/client";
import { doing } from "../words/firing";
import { span } from "../words/names";
import css from "./firing.module.css";
import { clock, timing } from "./timing";

/** What a blade in the fire says of itself in a few words. */
export function inShort(firing: Firing, now: number): string {
  const { state, actions } = firing;
  const hard = state.untempered_since_ms;
  if (hard) return `hard, untempered ${span((now - hard) / 1000)}`;
  const last = actions[state.position - 1];
  if (!last) return "not begun";
  const t = timing(now, state.confirmed_ms.at(-1), last.lasts_s ?? undefined);
  return `${doing(last.doing)} ${t.over ? "time is up" : clock(t.shown)}`;
}

/** The other blades in the fire, each with its clock; one press goes to it. */
export function FireStrip(props: {
  front: string;
  all: Firing[];
  now: number;
  together: boolean;
  with: number;
  onTogether: () => void;
}) {
  const others = props.all.filter((f) => f.id !== props.front);
  if (others.length === 0) return null;
  return (
    <nav className={css["fire-strip"]} aria-label="Blades in the fire">
      <button type="button" aria-pressed={props.together} onClick={props.onTogether}>
        {props.together
          ? `Together: ${props.with === 1 ? "this one alone now" : `${props.with} blades`}`
          : "One by one"}
      </button>
      {others.map((f) => (
        <Link
          key={f.id}
          to={`/firings/${f.id}`}
          replace
          className={f.state.untempered_since_ms ? "loud" : ""}
        >
          <b>{f.mark}</b> <span>{inShort(f, props.now)}</span>
        </Link>
      ))}
    </nav>
  );
}
