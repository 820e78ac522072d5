import { Button } from "react-bootstrap";
import { Link } from "react-router";
import type { DayView } from "../api/client";
import { Notice } from "../fields/notice";
import { clockOn, type DayNames, news, trouble } from "../words/day";
import css from "./day.module.css";
import { Ails } from "./mending";

/** News older than this are no longer told, s. */
const OLD_S = 6 * 3600;

/** What has to be known of a day before it is looked at: what is not on it, what cannot be, what is other. */
export function Told(props: { day: DayView; names: DayNames; onTakeOff: (id: string) => void }) {
  const { day, names, onTakeOff } = props;
  const last = day.news[0];
  return (
    <>
      {day.blades.map((b) =>
        b.trouble ? (
          <Notice key={b.blade_id}>
            {trouble(b.trouble, b.mark)} <Link to={`/blades/${b.blade_id}/plan`}>To its plan</Link>
            <Button variant="link" onClick={() => onTakeOff(b.blade_id)}>
              Take it off
            </Button>
          </Notice>
        ) : (
          b.untempered && (
            <Notice key={b.blade_id}>
              The plan of {b.mark} has no temper after its quench: it would lie brittle as glass.{" "}
              <Link to={`/blades/${b.blade_id}/plan`}>To its plan</Link>
            </Notice>
          )
        ),
      )}
      <Ails day={day} names={names} />
      {last && day.now_s - last.at_s < OLD_S && (
        <p className={css.news} role="status">
          <span className="num">{clockOn(last.at_s, day.now_s)}</span>{" "}
          {news(last.changes, names, day.now_s, 3)}
        </p>
      )}
    </>
  );
}
