import { Button } from "react-bootstrap";
import type { Blade, Plan } from "../api/client";
import { useFirings, useReadings } from "../api/queries";
import { Checks, Orders } from "../blade/checks";
import { ConflictNotice } from "../draft/conflict-notice";
import { BladeView } from "../drawing/blade-view";
import { Notice } from "../fields/notice";
import { Outcomes } from "../prediction/outcomes";
import { useOutline, usePrediction } from "../prediction/prediction";
import { SHAPES } from "../words/names";
import { Alike } from "./alike";
import { Along } from "./along";
import { fieldErrors, useBladeDraft } from "./blade-draft";
import { BladeFields } from "./blade-fields";
import { OutlineFile } from "./outline-file";
import css from "./ready.module.css";

/** What the blade is, and what it is for. */
export function ReadyTab({ blade, plan }: { blade: Blade; plan?: Plan }) {
  const draft = useBladeDraft(blade);
  const { now, theirs, problem } = draft;
  const firings = useFirings(blade.id);
  const readings = useReadings(blade.id);
  const predicted = usePrediction(now, plan?.steps);
  const errors = fieldErrors(problem, predicted.error);
  const preset = useOutline(now) ?? blade.outline;
  const own = now.ready.outline;
  const outline = Array.isArray(own) ? own : preset;
  return (
    <div className={`low ${css.ready}`}>
      <div>
        <form
          className="grid"
          onSubmit={(e) => {
            e.preventDefault();
            draft.save.mutate(now);
          }}
        >
          <BladeFields draft={draft} errors={errors} />
          <div className="wide row-of">
            <Button type="submit" disabled={!draft.dirty || draft.save.isPending}>
              Save blade
            </Button>
            <Button variant="link" disabled={!draft.dirty} onClick={draft.putBack}>
              Put back
            </Button>
            {draft.dirty && !problem && <span className="soft">Changed, not saved yet.</span>}
          </div>
        </form>
        {theirs && (
          <ConflictNotice onResolve={draft.resolve}>
            Someone changed this blade meanwhile ({theirs.name}, {theirs.steel_name}). What you
            typed is still here.
          </ConflictNotice>
        )}
        {problem && !theirs && (
          <Notice>
            <span>Not saved: {problem.message} What you typed is still here.</span>
          </Notice>
        )}
        <BladeView blade={now} outline={outline} steps={plan?.steps} height={200} />
        {plan && <Alike blade={blade} />}
        <Checks checks={predicted.data?.checks ?? []} ready={now.ready} onChange={draft.setReady} />
        <Orders blade={now} plan={plan} />
        <Along ready={now.ready} sizes={now} errors={errors.ready} onChange={draft.setReady} />
        {own ? (
          <p className="fine">
            It has an outline of its own, from a drawing.{" "}
            <Button variant="link" onClick={() => draft.setReady({ outline: null })}>
              Back to the {SHAPES[now.shape]}
            </Button>
          </p>
        ) : (
          <OutlineFile
            onTake={(read) =>
              draft.set({
                length_mm: read.length_mm,
                width_mm: read.width_mm,
                ready: { ...now.ready, outline: read.outline },
              })
            }
          />
        )}
      </div>
      <Outcomes
        prediction={predicted.data}
        wanted={[now.target_low_hrc, now.target_high_hrc]}
        earlier={firings.data?.[0]?.prediction}
        readings={readings.data ?? []}
      />
    </div>
  );
}
