import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Button } from "react-bootstrap";
import { api, type Blade, type Help, type Step, take } from "../api/client";
import { useSettled } from "../draft/settled";
import { described } from "../prediction/prediction";
import { useUnits } from "../quantity/units";
import { changeLabel } from "../words/changes";
import { helps } from "../words/reasons";
import { apply } from "./edit-plan";
import css from "./plan.module.css";

/** The few changes that help most, each applied with one press. */
export function Helps(props: {
  blade: Blade;
  steps: Step[];
  /** A change that is proposed already. */
  said?: string;
  onFix: (to: (now: Step[]) => Step[]) => void;
}) {
  const { blade, steps, onFix } = props;
  const { say } = useUnits();
  const asked = JSON.stringify([blade, steps]);
  const settled = useSettled(asked, 500);
  const found = useQuery({
    // A change gives up at once what is still computed of the plan before it.
    queryKey: ["help", asked],
    enabled: settled === asked,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: async ({ signal }) => {
      const [b, s] = JSON.parse(asked) as [Blade, Step[]];
      const body = {
        ...described(b),
        steps: s,
        target_hrc: { low: b.target_low_hrc, high: b.target_high_hrc },
      };
      const all = await take(api.POST("/api/v1/help", { signal, body }));
      if (!Array.isArray(all)) throw new Error("The computation broke off. Try again.");
      return all as Help[];
    },
  });
  const all = (found.data ?? []).filter((h) => changeLabel(h.fix, say) !== props.said);
  if (all.length === 0) return null;
  return (
    <section aria-label="What would help most">
      <h3 className="small-head">What would help most</h3>
      <ul className={css.helps}>
        {all.slice(0, 6).map((h) => (
          <li key={`${h.about} ${changeLabel(h.fix, say)}`}>
            <span>{helps(h, say)}</span>
            <Button variant="link" onClick={() => onFix((now) => apply(now, h.fix))}>
              {changeLabel(h.fix, say)}
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}
