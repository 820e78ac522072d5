import { Button } from "react-bootstrap";
import { Link } from "react-router";
import type { Prediction, Step } from "../api/client";
import { useUnits } from "../quantity/units";
import { changeLabel } from "../words/changes";
import { warned } from "../words/warnings";
import { apply } from "./edit-plan";
import css from "./plan.module.css";

/** What a plan is warned of, by number as on its path, each with its fix. */
export function Warnings(props: {
  prediction?: Prediction;
  locked: boolean;
  /** Key of the steel of the blade, or of its edge. */
  steel?: string;
  onFix: (steps: (now: Step[]) => Step[]) => void;
}) {
  const { say } = useUnits();
  const all = props.prediction?.warnings ?? [];
  if (all.length === 0) return <p className="soft fine">Nothing to warn of in this plan.</p>;
  return (
    <ol className={css.warnings} aria-label="Warnings">
      {all.map(({ fix, ...w }, i) => (
        <li key={`${w.code} ${w.step}`}>
          <span className="flag-mark" aria-hidden="true">
            {i + 1}
          </span>
          <span>
            <span className="visually-hidden">Warning {i + 1}: </span>
            {warned(w, say)}
          </span>
          {w.code === "steel_untried" && (
            <Link to={`/steels/trials${props.steel ? `?trial=${props.steel}` : ""}`}>
              Test a coupon
            </Link>
          )}
          {fix && !props.locked && (
            <Button variant="link" onClick={() => props.onFix((now) => apply(now, fix))}>
              {changeLabel(fix, say)}
            </Button>
          )}
        </li>
      ))}
    </ol>
  );
}
