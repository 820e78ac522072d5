import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button } from "react-bootstrap";
import { Link } from "react-router";
import { api, type Blade, type Plan, take } from "../api/client";
import { changed } from "../api/live";
import { useFindings, useFirings, useReadings, useStations } from "../api/queries";
import { Outcomes } from "../prediction/outcomes";
import { usePrediction } from "../prediction/prediction";
import { Diagnosis } from "./diagnosis";
import { Findings, lineHeights } from "./findings";
import { Photos } from "./photos";
import { PointedBlade, usePointing } from "./pointing";
import { ReadList } from "./read-list";
import { ReadingFields, useReadingForm } from "./reading-form";
import { STAGES } from "./reading-values";
import css from "./readings.module.css";

/** Takes the blade off the rack, or puts it back. */
function Finish({ blade }: { blade: Blade }) {
  const client = useQueryClient();
  const finish = useMutation({
    mutationFn: () =>
      take(
        api.PATCH("/api/v1/blades/{id}", {
          params: { path: { id: blade.id } },
          body: { finished: !blade.finished_at, version: blade.version },
        }),
      ),
    onSuccess: () => changed(client, "blade", blade.id),
  });
  return (
    <p>
      <Button variant="outline-primary" onClick={() => finish.mutate()}>
        {blade.finished_at ? "Back on the rack" : "Finished: off the rack"}
      </Button>
      {finish.error && (
        <span className="wrong" role="alert">
          {finish.error.message}
        </span>
      )}
    </p>
  );
}

/** What was read, beside what was predicted. */
export function ReadingsTab({ blade, plan }: { blade: Blade; plan?: Plan }) {
  const client = useQueryClient();
  const stations = useStations();
  const readings = useReadings(blade.id).data ?? [];
  const findings = useFindings(blade.id).data ?? [];
  const frozen = useFirings(blade.id).data?.[0]?.prediction;
  const predicted = usePrediction(blade, plan?.steps);
  const state = blade.firing_state;
  const reading = useReadingForm(blade);
  const pointing = usePointing(blade, reading.point);
  const withdraw = useMutation({
    mutationFn: (id: string) =>
      take(
        api.DELETE("/api/v1/blades/{id}/readings/{reading}", {
          params: { path: { id: blade.id, reading: id } },
        }),
      ),
    onSuccess: () => changed(client, "reading", "", blade.id),
  });
  return (
    <div className={`low ${css.readings}`}>
      <PointedBlade
        blade={blade}
        readings={readings}
        findings={findings}
        pointing={pointing}
        where={reading.where}
      />
      <div>
        {state?.quenched ? (
          <ReadingFields reading={reading} />
        ) : (
          <p>
            This blade was not quenched yet, so there is nothing to read.{" "}
            <Link to={`/blades/${blade.id}/fire`}>Fire it first</Link>.
          </p>
        )}
        <ReadList
          blade={blade.id}
          readings={readings}
          stages={STAGES}
          testers={new Map((stations.data ?? []).map((s) => [s.id, s.name]))}
          onWithdraw={(id) => withdraw.mutate(id)}
        />
        {(state?.quenched || blade.firing_id) && (
          <Findings
            blade={blade}
            kind={pointing.kind}
            onKind={pointing.setKind}
            pointed={pointing.pointed}
            onKept={pointing.clear}
          />
        )}
        <Photos blade={blade} />
        {state?.quenched && plan && <Diagnosis blade={blade} plan={plan} />}
        {state?.tempered && !blade.firing_open && <Finish blade={blade} />}
      </div>
      <div className={css.beside}>
        <p className="soft">
          {frozen ? "Predicted when the plan was frozen; the diamonds are what was read." : ""}
        </p>
        <Outcomes
          prediction={frozen ?? predicted.data}
          wanted={[blade.target_low_hrc, blade.target_high_hrc]}
          readings={readings}
          lines={lineHeights(findings)}
        />
      </div>
    </div>
  );
}
