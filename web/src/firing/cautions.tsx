import type { Firing } from "../api/client";
import { useUnits } from "../quantity/units";
import { ACTION_CAUTIONS, action } from "../words/firing";
import { span } from "../words/names";
import css from "./firing.module.css";
import type { useKiln } from "./kiln-line";
import type { straightenNow } from "./window";

const CLOSED = "This firing is closed. What happened is kept as it was.";

/** What the kiln says, when to straighten, what to mind, and what comes then. */
export function Cautions(props: {
  firing: Firing;
  /** ms of the server. */
  now: number;
  kiln: ReturnType<typeof useKiln>;
  straighten: ReturnType<typeof straightenNow>;
}) {
  const { firing, now, kiln, straighten } = props;
  const { say } = useUnits();
  const { actions } = firing;
  const { position, untempered_since_ms: untempered } = firing.state;
  const caution = (actions[position] ?? actions[position - 1])?.caution;
  const after = actions[position + 1];
  return (
    <>
      {kiln && (
        <div
          className={kiln.wrong ? `${css.caut} ${css.strong}` : `${css.centre} ${css["kiln-line"]}`}
          role="status"
        >
          {kiln.text}
        </div>
      )}
      {straighten && (
        <div className={straighten.left ? `${css.caut} ${css.strong}` : css.caut} role="status">
          {straighten.text}
          {straighten.left !== null && (
            <span className={css["window-left"]} aria-hidden="true">
              <span style={{ width: `${100 * straighten.left}%` }} />
            </span>
          )}
        </div>
      )}
      {untempered && (
        <div className={`${css.caut} ${css.strong}`}>
          Hard and untempered for {span((now - untempered) / 1000)}.
        </div>
      )}
      {caution && !firing.closed_at && <div className={css.caut}>{ACTION_CAUTIONS[caution]}</div>}
      {firing.closed_at ? (
        <div className={css.caut}>{CLOSED}</div>
      ) : (
        <div className={css.dim}>
          {after && !straighten ? `Then: ${action(after.kind, say).toLowerCase()}` : ""}
        </div>
      )}
    </>
  );
}
