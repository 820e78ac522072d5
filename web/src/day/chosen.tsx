import { Button, Form } from "react-bootstrap";
import { Link } from "react-router";
import type { DayBar, DayView } from "../api/client";
import { useUnits } from "../quantity/units";
import { binding, clockOn, type DayNames, departure, doneIn } from "../words/day";
import { span } from "../words/names";
import css from "./day.module.css";
import { momentsOf } from "./moments";
import { dateOf } from "./pick";
import { STEP_S } from "./timeline";

/** A moment as a field of date and time has it on this device's clock, and back. */
function localOf(at_s: number): string {
  const at = new Date(at_s * 1000);
  const two = (n: number) => String(n).padStart(2, "0");
  return `${dateOf(at)}T${two(at.getHours())}:${two(at.getMinutes())}`;
}
function secondsOf(text: string): number | null {
  const at = Date.parse(text);
  return Number.isFinite(at) ? at / 1000 : null;
}

/** The bar that is chosen: what, where, when, who, why not earlier, and what can be done about it. */
export function Chosen(props: {
  bar: DayBar;
  day: DayView;
  names: DayNames;
  name: string;
  start_s: number;
  onMove: (bar: DayBar, start_s: number) => void;
  onPin: (bar: DayBar) => void;
  onTakeOff: (blade: string) => void;
  onTimes: (blade: string, not_before_s: number, due_s: number | null) => void;
}) {
  const { bar, day, names, start_s } = props;
  const { say } = useUnits();
  const blade = day.blades.find((b) => b.blade_id === bar.blade);
  const apart = departure(bar, say);
  const end_s = start_s + bar.end_s - bar.start_s;
  const WHICH = { in: "In", at: "Done", out: "out" };
  const hands = momentsOf(bar).filter((m) => m.who);
  const coming = bar.standing === "coming";
  const [from, to] = blade?.hard ?? [];
  const hard = from != null && to != null && bar.phase === "bath" ? to - from : null;
  const told = [
    coming && `Not earlier: ${binding(bar, names, day)}`,
    hands.length > 0 && `${hands.map((m) => `${WHICH[m.which]} by ${m.who}`).join(", ")}.`,
    apart && `It is ${apart}.`,
    hard !== null &&
      (hard < 60
        ? "It goes straight on into its temper."
        : `After it ${names.mark(bar.blade)} lies hard for ${span(hard)}.`),
  ].filter(Boolean);
  return (
    <section className={css.chosen} aria-label="The chosen bar">
      <div>
        <b>
          <Link to={blade?.firing_id ? `/firings/${blade.firing_id}` : `/blades/${bar.blade}/plan`}>
            {names.mark(bar.blade)} {props.name}
          </Link>
        </b>{" "}
        {doneIn(bar, day)}
        {bar.station ? `, ${names.station(bar.station)}` : ", in the air"}
        {bar.heat_c != null && `, ${say.temperature(bar.heat_c)}`}{" "}
        <span className="num">
          {clockOn(start_s, day.now_s)}–{clockOn(end_s, day.now_s)}
        </span>{" "}
        <span className="soft">{span(end_s - start_s)}</span>
      </div>
      <div className="soft">{told.join(" ")}</div>
      <div className="row-of">
        {coming && (
          <>
            <Button variant="outline-primary" onClick={() => props.onMove(bar, start_s - STEP_S)}>
              5 min earlier
            </Button>
            <Button variant="outline-primary" onClick={() => props.onMove(bar, start_s + STEP_S)}>
              5 min later
            </Button>
            <Button variant="outline-primary" onClick={() => props.onPin(bar)}>
              {bar.pinned ? "Let it go" : "Pin it here"}
            </Button>
          </>
        )}
        {blade && (
          <>
            <Form.Label className={css.times}>
              Not before
              <Form.Control
                type="datetime-local"
                value={localOf(blade.not_before_s)}
                onChange={(e) => {
                  const at = secondsOf(e.target.value);
                  if (at !== null) props.onTimes(bar.blade, at, blade.due_s ?? null);
                }}
              />
            </Form.Label>
            <Form.Label className={css.times}>
              Wanted by
              <Form.Control
                type="datetime-local"
                value={blade.due_s == null ? "" : localOf(blade.due_s)}
                onChange={(e) =>
                  props.onTimes(bar.blade, blade.not_before_s, secondsOf(e.target.value))
                }
              />
            </Form.Label>
          </>
        )}
        <Button variant="link" onClick={() => props.onTakeOff(bar.blade)}>
          Take {names.mark(bar.blade)} off the day
        </Button>
      </div>
    </section>
  );
}
