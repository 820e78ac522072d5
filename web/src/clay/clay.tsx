import { useState } from "react";
import { Button } from "react-bootstrap";
import { type Blade, type BladeClay, type Hamon, type Plan, problemOf } from "../api/client";
import { useClay, useFirings, useReadings } from "../api/queries";
import { ConflictNotice } from "../draft/conflict-notice";
import { heights } from "../drawing/blade-drawing";
import { Notice } from "../fields/notice";
import { Outcomes } from "../prediction/outcomes";
import { mapsKey, useMaps, usePrediction } from "../prediction/prediction";
import { useUnits } from "../quantity/units";
import { noLine } from "../words/reasons";
import { ClayBoard, ClayKey } from "./board";
import { useBrush } from "./brush";
import { isPainted, stroked } from "./faces";
import { ClayLayouts } from "./layouts";
import { offBy, type Place, redrawn } from "./line";
import { type Brush, ClayTools } from "./tools";
import { type ClayDraft, type Painted, useClayDraft, useClayStep } from "./use-clay";

/** The line the clay gives: a coarse preview while it is painted, then the full one. */
function useLine(blade: Blade, plan: Plan, shown: Painted, draft: ClayDraft, drawing: boolean) {
  const preview = useMaps(blade, plan.steps, true, { clay: shown.clay, step_mm: 2, pause: 40 });
  const { clay } = draft.now;
  const full = useMaps(blade, plan.steps, !drawing, { clay, step_mm: 1, pause: 450 });
  const isFull = full.data?.asked === mapsKey(blade, plan.steps, shown.clay);
  const hamon = (isFull ? full.data : preview.data)?.hamon;
  const points: Place[] =
    hamon && "points" in hamon ? hamon.points.map((p) => [p.x_mm, p.height_mm]) : [];
  return { hamon, points, isFull, error: preview.error };
}

/** Where the line will lie, in words. */
function LineSaid(props: {
  hamon?: Hamon;
  points: Place[];
  wanted: Place[];
  isFull: boolean;
  error: Error | null;
}) {
  const { about, say } = useUnits();
  const { hamon, error } = props;
  if (error) return problemOf(error);
  if (!hamon) return "Computing the line…";
  if (!("points" in hamon)) return noLine(hamon.none, say);
  const off = offBy(props.points, props.wanted);
  const kind = props.isFull ? "" : " (preview)";
  const miss = off === undefined ? "" : `, ${about(off)} off the one you want`;
  return `The line lies ${about(hamon.height_mm)} above the edge on the mean, band ${about(hamon.band_mm)}${miss}${kind}.`;
}

/** Clay that no step of the plan lays. */
function NotLaid({ blade, plan, dryS }: { blade: Blade; plan: Plan; dryS: number }) {
  const step = useClayStep(blade.id, plan, dryS);
  return (
    <div className="notice">
      <span>
        {plan.frozen_at
          ? "No step of this plan laid the clay: it was fired bare, and everything else shows it bare. The next plan can lay it."
          : "No step of this plan lays the clay: everywhere else it is predicted bare."}
      </span>
      {!plan.frozen_at && (
        <Button disabled={step.isPending} onClick={() => step.mutate()}>
          Put it in the plan
        </Button>
      )}
      {step.error && (
        <span className="wrong" role="alert">
          {problemOf(step.error)}
        </span>
      )}
    </div>
  );
}

function SaveNotices({ draft }: { draft: ClayDraft }) {
  if (draft.theirs) {
    return (
      <ConflictNotice onResolve={draft.resolve}>
        Someone else laid out this clay meanwhile. Yours is still here.
      </ConflictNotice>
    );
  }
  if (!draft.problem) return null;
  return (
    <Notice>
      Not saved; what you painted is still here.{" "}
      {Object.values(draft.errors)[0] ?? draft.problem.message}
    </Notice>
  );
}

interface BoardProps {
  blade: Blade;
  plan: Plan;
  stored: BladeClay;
}

/** Painting the clay, with the line it gives under it. */
function Painting({ blade, plan, stored }: BoardProps) {
  const draft = useClayDraft(blade.id, stored);
  const [set, setBrush] = useState<Brush>({ tool: "paint", width: 8, thickness: 2, right: false });
  const edge = (x: number) => heights(blade.outline, x)?.[0];
  const withStroke = ({ clay, wanted }: Painted, points: Place[]): Painted => {
    if (set.tool === "line") return { clay, wanted: redrawn(wanted, points, edge) };
    const thickness = set.tool === "wipe" ? 0 : set.thickness;
    return { clay: stroked(clay, set.right, points, { width: set.width, thickness }), wanted };
  };
  const held = useBrush({
    start: [blade.length_mm * 0.4, blade.width_mm * 0.5],
    onStroke: (points) => draft.change((now) => withStroke(now, points)),
    undo: draft.undo,
    redo: draft.redo,
  });
  const { drawn } = held.brush;
  const shown = drawn ? withStroke(draft.now, drawn) : draft.now;
  const line = useLine(blade, plan, shown, draft, drawn !== null);
  const { clay, wanted } = draft.now;
  const predicted = usePrediction(blade, plan.steps, clay);
  const firings = useFirings(blade.id);
  const readings = useReadings(blade.id);
  const isLaid = plan.steps.some((s) => s.kind === "clay");
  return (
    <div className="low clay-tab">
      <div>
        <ClayTools brush={set} onBrush={setBrush} draft={draft} kept={stored.version > 0} />
        <ClayBoard blade={blade} shown={shown} line={line.points} set={set} held={held} />
        <ClayKey wanted={wanted.length > 0} />
        <p className="advice" aria-live="polite">
          <LineSaid {...line} wanted={wanted} />
        </p>
        {isPainted(clay) && !isLaid && (
          <NotLaid blade={blade} plan={plan} dryS={predicted.data?.clay?.dry_oven_s ?? 3600} />
        )}
        <SaveNotices draft={draft} />
        <ClayLayouts
          blade={blade}
          plan={plan}
          draft={draft}
          brush={set}
          lay={predicted.data?.clay}
        />
      </div>
      <Outcomes
        prediction={predicted.data}
        wanted={[blade.target_low_hrc, blade.target_high_hrc]}
        earlier={firings.data?.[0]?.prediction}
        readings={readings.data ?? []}
      />
    </div>
  );
}

/** The clay of a blade. */
export function ClayTab({ blade, plan }: { blade: Blade; plan?: Plan }) {
  const stored = useClay(blade.id);
  if (!plan) {
    return <p className="page">Clay is computed for a plan: make one first, under Plan.</p>;
  }
  if (stored.error) return <p className="page">{problemOf(stored.error)}</p>;
  return stored.data ? <Painting blade={blade} plan={plan} stored={stored.data} /> : null;
}
