import { Link } from "react-router";
import type { Firing } from "../api/client";
import { useUnits } from "../quantity/units";
import { action } from "../words/firing";
import css from "./firing.module.css";
import { journal } from "./journal";
import { event, moment, type What } from "./press";
import { lastEvent } from "./together";
import { Waiting } from "./waiting";

/** What is left of the view when it cannot be drawn: the presses go on and nothing of them is lost. */
export function Plain({
  firing,
  error,
  again,
}: {
  firing: Firing;
  error: Error;
  again: () => void;
}) {
  const { say } = useUnits();
  const next = firing.actions[firing.state.position];
  const last = lastEvent(firing);
  const press = (what: What) => journal.add([{ firing: firing.id, body: event(what, moment()) }]);
  return (
    <div className={css["lights-out"]}>
      <b>
        {firing.mark} {firing.name}
      </b>
      <div className={`${css.caut} ${css.strong}`} role="alert">
        Part of this view broke ({error.message}). Every press is kept; go on with these.
      </div>
      <Waiting firing={firing} />
      <div className={css.bottom}>
        <button
          type="button"
          className={css.big}
          disabled={!!firing.closed_at}
          onClick={() =>
            press(next ? { kind: "confirm", action: firing.state.position } : { kind: "close" })
          }
        >
          {next ? action(next.kind, say) : "Close the firing"}
        </button>
        <div className={css.alt}>
          <button
            type="button"
            disabled={!last || !!firing.closed_at}
            onClick={() => press({ kind: "undo", event: last })}
          >
            Undo
          </button>
          <button type="button" onClick={again}>
            Draw the view again
          </button>
          <Link to={`/blades/${firing.blade_id}/fire`}>Leave</Link>
        </div>
      </div>
    </div>
  );
}
