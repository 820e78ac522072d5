import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import {
  api,
  type Blade,
  type BladeClay,
  type Clay,
  type ClayFace,
  type Plan,
  problemOf,
  type Stroke,
  take,
} from "../api/client";
import { queries, useClay, useFirings, useReadings } from "../api/queries";
import { BladeDrawing, type Frame, heights } from "../drawing/blade-drawing";
import { CLAY_KEY, ClayLayer, clayColour, faceOf } from "../drawing/clay-layer";
import { RadioRow } from "../drawing/radio-row";
import { QuantityInput } from "../quantity/quantity-input";
import { useUnits } from "../quantity/units";
import { found as foundClay } from "../words/advice";
import { noLine } from "../words/reasons";
import { laid, TEMPLATES, type Template } from "./clay-templates";
import { withClay } from "./edit-plan";
import { Outcomes } from "./outcomes";
import { described, mapsKey, useMaps, usePrediction } from "./prediction";
import { type Painted, useClayDraft } from "./use-clay";

type Place = [number, number];
type Tool = "paint" | "wipe" | "line";

const TOOLS: Record<Tool, string> = {
  paint: "Lay clay on",
  wipe: "Wipe it off",
  line: "Draw the wanted line",
};

const FACES = { left: "Left face, seen through", right: "Right face" } as const;

/** The coarser of two places a brush went is left out: a stroke needs no more. */
function thinned(points: Place[]): Place[] {
  const kept: Place[] = [];
  for (const p of points) {
    const before = kept.at(-1);
    if (!before || Math.hypot(p[0] - before[0], p[1] - before[1]) >= 1.2) kept.push(p);
  }
  const step = Math.ceil(kept.length / 190);
  return kept.filter((_, i) => i % step === 0 || i === kept.length - 1);
}

/** A drawn line put into the one that was there: it replaces what lies between its ends. */
export function redrawn(
  wanted: Place[],
  drawn: Place[],
  edge: (x: number) => number | undefined,
): Place[] {
  const above = drawn
    .flatMap(([x, y]): Place[] => {
      const e = edge(x);
      return e === undefined ? [] : [[Math.round(x * 10) / 10, Math.max(0.5, y - e)]];
    })
    .sort((a, b) => a[0] - b[0]);
  const spaced: Place[] = [];
  for (const p of above) {
    const before = spaced.at(-1);
    if (!before || p[0] - before[0] >= 3) spaced.push([p[0], Math.round(p[1] * 10) / 10]);
  }
  const [from, to] = [spaced[0]?.[0] ?? 0, spaced.at(-1)?.[0] ?? 0];
  const kept = wanted.filter(([x]) => x < from - 2 || x > to + 2);
  return [...kept, ...spaced].sort((a, b) => a[0] - b[0]).slice(0, 200);
}

/** Height of a wanted line at x, mm. */
function heightAt(wanted: Place[], x: number): number | undefined {
  const i = wanted.findIndex((p) => p[0] >= x);
  const [b, a] = [wanted[i], wanted[i - 1]];
  if (!b) return wanted.at(-1)?.[1];
  if (!a) return b[1];
  return a[1] + ((b[1] - a[1]) * (x - a[0])) / (b[0] - a[0]);
}

function LineOver(props: { frame: Frame; points: Place[]; kind: "seen" | "wanted" }) {
  const at = props.points.flatMap(([x, height]) => {
    const edge = props.frame.heights(x)?.[0];
    if (edge === undefined) return [];
    return [`${props.frame.x(x).toFixed(1)},${props.frame.y(edge + height).toFixed(1)}`];
  });
  return (
    <g className={props.kind}>
      <polyline className="halo" points={at.join(" ")} />
      <polyline points={at.join(" ")} />
    </g>
  );
}

interface BoardProps {
  blade: Blade;
  plan: Plan;
  stored: BladeClay;
}

/** Painting the clay, with the line it gives under it. */
function Board({ blade, plan, stored }: BoardProps) {
  const { show, about, say, units } = useUnits();
  const draft = useClayDraft(blade.id, stored);
  const { clay, wanted } = draft.now;
  const [tool, setTool] = useState<Tool>("paint");
  const [right, setRight] = useState(false);
  const [brush, setBrush] = useState(8);
  const [thickness, setThickness] = useState(2);
  const [from, setFrom] = useState(Math.round(blade.width_mm * 0.45));
  const [template, setTemplate] = useState<Template>("even");
  const [thinnest, setThinnest] = useState(0.8);
  const [thickest, setThickest] = useState(4);
  const [drawing, setDrawing] = useState<Place[] | null>(null);
  const [hand, setHand] = useState<Place | null>(null);
  const [keys, setKeys] = useState(false);
  const firings = useFirings(blade.id);
  const readings = useReadings(blade.id);

  const same = !clay.right;
  const face = faceOf(clay, right);
  const outline = blade.outline;
  const edge = (x: number) => heights(outline, x)?.[0];

  const withFace = (to: ClayFace): Clay => {
    if (same) return { left: to, right: null };
    return right ? { left: clay.left, right: to } : { left: to, right: clay.right };
  };
  const stroked = (points: Place[]): Clay => {
    const stroke: Stroke = {
      points: thinned(points),
      width_mm: brush,
      thickness_mm: tool === "wipe" ? 0 : thickness,
    };
    return withFace({ ...face, strokes: [...(face.strokes ?? []), stroke].slice(-400) });
  };
  const shown: Painted =
    drawing === null
      ? draft.now
      : tool === "line"
        ? { clay, wanted: redrawn(wanted, drawing, edge) }
        : { clay: stroked(drawing), wanted };
  const finish = (points: Place[] | null) => {
    setDrawing(null);
    if (!points || points.length === 0) return;
    if (tool === "line") draft.change({ clay, wanted: redrawn(wanted, points, edge) });
    else draft.change({ clay: stroked(points), wanted });
  };

  const preview = useMaps(blade, plan.steps, true, { clay: shown.clay, step_mm: 2, pause: 40 });
  const full = useMaps(blade, plan.steps, drawing === null, { clay, step_mm: 1, pause: 450 });
  const isFull = full.data?.asked === mapsKey(blade, plan.steps, shown.clay);
  const maps = isFull ? full.data : preview.data;
  const predicted = usePrediction(blade, plan.steps, clay);
  const lay = predicted.data?.clay;
  const hamon = maps?.hamon;
  const line: Place[] =
    hamon && "points" in hamon ? hamon.points.map((p) => [p.x_mm, p.height_mm]) : [];

  const off = (() => {
    if (wanted.length === 0 || line.length === 0) return undefined;
    const [a, b] = [wanted[0]?.[0] ?? 0, wanted.at(-1)?.[0] ?? 0];
    const near = line.filter(([x]) => x >= a - 1 && x <= b + 1);
    if (near.length === 0) return undefined;
    const sum = near.reduce((s, [x, h]) => s + (h - (heightAt(wanted, x) ?? h)) ** 2, 0);
    return Math.sqrt(sum / near.length);
  })();

  const laidOut = plan.steps.some((s) => s.kind === "clay");
  const painted = [clay.left, clay.right].some(
    (f) => f && (f.band || (f.strokes ?? []).some((s) => s.thickness_mm > 0)),
  );
  const client = useQueryClient();
  const step = useMutation({
    mutationFn: () =>
      take(
        api.PUT("/api/v1/blades/{id}/plan", {
          params: { path: { id: blade.id } },
          body: { steps: withClay(plan.steps), version: plan.version },
        }),
      ),
    onSuccess: (stored) => client.setQueryData(queries.plan(blade.id).queryKey, stored),
  });

  const advise = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/v1/advise/clay", {
          body: {
            of: { ...described(blade), steps: plan.steps },
            wanted: wanted.length > 0 ? wanted : [[0, from]],
            thinnest_mm: thinnest,
            thickest_mm: thickest,
            brush_mm: Math.min(40, Math.max(2, brush)),
          },
        }),
      ),
    onSuccess: (found) => {
      if (found.clay) draft.change({ clay: found.clay, wanted });
    },
  });

  const move = (dx: number, dy: number) => {
    const now = hand ?? [blade.length_mm * 0.4, blade.width_mm * 0.5];
    const next: Place = [now[0] + dx, now[1] + dy];
    setHand(next);
    if (drawing) setDrawing([...drawing, next]);
  };
  const press = (e: React.KeyboardEvent) => {
    if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z") {
      e.preventDefault();
      if (e.shiftKey) draft.redo();
      else draft.undo();
      return;
    }
    if (e.ctrlKey || e.metaKey || e.altKey) return;
    const by = e.shiftKey ? 10 : 2;
    const ways: Record<string, Place> = {
      ArrowLeft: [-by, 0],
      ArrowRight: [by, 0],
      ArrowUp: [0, by],
      ArrowDown: [0, -by],
    };
    const way = ways[e.key];
    if (way) {
      e.preventDefault();
      setKeys(true);
      move(way[0], way[1]);
    } else if (e.key === " ") {
      e.preventDefault();
      setKeys(true);
      if (drawing) finish(drawing);
      else {
        const at = hand ?? ([blade.length_mm * 0.4, blade.width_mm * 0.5] as Place);
        setHand(at);
        setDrawing([at]);
      }
    } else if (e.key === "Escape" && drawing) {
      e.preventDefault();
      setDrawing(null);
    }
  };
  const setWanted = (share: number, height: number) => {
    const x = share * blade.length_mm;
    const at = (s: number) => heightAt(wanted, s * blade.length_mm) ?? from;
    const places =
      wanted.length > 2
        ? wanted
        : [0.04, 0.5, 0.94].map((s): Place => [s * blade.length_mm, at(s)]);
    // The line bends towards the new height, most where it was set.
    const reach = 0.3 * blade.length_mm;
    const by = height - (heightAt(places, x) ?? height);
    draft.change({
      clay,
      wanted: places.map(([px, ph]): Place => {
        const weight = Math.max(0, 1 - Math.abs(px - x) / reach);
        return [px, Math.max(0.5, Math.round((ph + by * weight) * 10) / 10)];
      }),
    });
  };

  const words = () => {
    if (preview.error) return problemOf(preview.error);
    if (!hamon) return "Computing the line…";
    if (!("points" in hamon)) return noLine(hamon.none, say);
    const kind = isFull ? "" : " (preview)";
    const miss = off === undefined ? "" : `, ${about(off)} off the one you want`;
    return `The line lies ${about(hamon.height_mm)} above the edge on the mean, band ${about(hamon.band_mm)}${miss}${kind}.`;
  };

  return (
    <div className="low clay-tab">
      <div>
        <div className="tool-row">
          <RadioRow
            label="What the brush does"
            name="clay-tool"
            options={TOOLS}
            value={tool}
            onChange={setTool}
          />
          <QuantityInput
            label="Brush"
            kind="length"
            value={brush}
            range={[1, 100]}
            onChange={setBrush}
          />
          <QuantityInput
            label="Thickness"
            kind="length"
            value={thickness}
            range={[0.1, 10]}
            onChange={setThickness}
          />
        </div>
        <div className="tool-row">
          <RadioRow
            label="Face"
            name="clay-face"
            options={FACES}
            value={right ? "right" : "left"}
            onChange={(f) => setRight(f === "right")}
          />
          <Form.Check
            id="clay-same"
            type="checkbox"
            label="Both faces the same"
            checked={same}
            onChange={(e) =>
              draft.change({
                wanted,
                clay: e.target.checked
                  ? { left: face, right: null }
                  : { left: clay.left, right: structuredClone(faceOf(clay, true)) },
              })
            }
          />
          {!same && (
            <Button
              variant="link"
              onClick={() =>
                draft.change({ wanted, clay: { left: clay.right ?? clay.left, right: clay.left } })
              }
            >
              Swap the faces
            </Button>
          )}
          <span className="saved soft">
            {draft.problem ? "not saved" : draft.dirty ? "saving…" : stored.version ? "saved" : ""}
          </span>
          <Button variant="link" disabled={draft.past.length === 0} onClick={draft.undo}>
            Undo
          </Button>
          <Button variant="link" disabled={draft.future.length === 0} onClick={draft.redo}>
            Redo
          </Button>
        </div>
        <div
          className="board"
          // biome-ignore lint/a11y/noNoninteractiveTabindex: it is drawn on with the keys as well
          tabIndex={0}
          role="application"
          aria-label="The blade to paint on. Arrows move the brush, with Shift further; Space puts it down and lifts it; Escape takes the stroke back."
          onKeyDown={press}
          onFocus={() => setKeys(true)}
          onBlur={() => setKeys(false)}
        >
          <BladeDrawing
            outline={outline}
            length={blade.length_mm}
            width={blade.width_mm}
            spine={blade.spine_mm}
            edge={blade.edge_mm}
            height={270}
            plain
            onStroke={(what, at) => {
              setKeys(false);
              if (what === "down") {
                setHand(at);
                setDrawing([at]);
              } else if (what === "move" && drawing) {
                setDrawing([...drawing, at]);
              } else if (what === "up" && drawing) {
                finish(drawing);
              }
            }}
            under={(frame) => (
              <>
                <rect width="100%" height="100%" fill={clayColour(0)} />
                <ClayLayer
                  face={faceOf(shown.clay, right)}
                  frame={frame}
                  outline={outline}
                  id={right ? "right" : "left"}
                />
              </>
            )}
            over={(frame) => (
              <>
                {line.length > 1 && <LineOver frame={frame} points={line} kind="seen" />}
                {shown.wanted.length > 0 && (
                  <LineOver frame={frame} points={shown.wanted} kind="wanted" />
                )}
                {keys && hand && (
                  <circle
                    className={`hand${drawing ? " down" : ""}`}
                    cx={frame.x(hand[0])}
                    cy={frame.y(hand[1])}
                    r={Math.max(4, 0.5 * brush * frame.scale)}
                  />
                )}
              </>
            )}
          />
        </div>
        <div className="visually-hidden" aria-live="polite">
          {keys && hand
            ? `Brush ${drawing ? "down" : "up"} at ${show("length", hand[0])} from the heel, ${show("length", hand[1])} up.`
            : ""}
        </div>
        <div className="clay-key">
          {CLAY_KEY.map((t) => (
            <span key={t}>
              <i style={{ background: clayColour(t) }} /> {about(t)}
            </span>
          ))}
          <span className="line-key">
            <i className="seen" /> line it gives
          </span>
          {wanted.length > 0 && (
            <span className="line-key">
              <i className="wanted" /> line you want
            </span>
          )}
        </div>
        <p className="advice" aria-live="polite">
          {words()}
        </p>
        {painted && !laidOut && (
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
            {step.error && <span className="wrong">{problemOf(step.error)}</span>}
          </div>
        )}
        {draft.theirs && (
          <div className="notice" role="alert">
            <span>Someone else laid out this clay meanwhile. Yours is still here.</span>
            <Button onClick={() => draft.resolve(true)}>Keep mine</Button>
            <Button variant="link" onClick={() => draft.resolve(false)}>
              Take theirs
            </Button>
          </div>
        )}
        {draft.problem && !draft.theirs && (
          <div className="notice" role="alert">
            Not saved; what you painted is still here.{" "}
            {Object.values(draft.problem.fields)[0] ?? draft.problem.message}
          </div>
        )}
        <div className="clay-rows">
          <fieldset>
            <legend>Start from</legend>
            <Form.Select
              aria-label="Template"
              value={template}
              onChange={(e) => setTemplate(e.target.value as Template)}
            >
              {Object.entries(TEMPLATES).map(([id, name]) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </Form.Select>
            <QuantityInput
              label="Begins above the edge"
              kind="length"
              value={from}
              range={[0, 300]}
              onChange={setFrom}
            />
            <Button
              variant="outline-primary"
              onClick={() =>
                draft.change({
                  wanted,
                  clay: withFace(
                    laid(template, {
                      outline,
                      length: blade.length_mm,
                      width: blade.width_mm,
                      from,
                      thickness,
                    }),
                  ),
                })
              }
            >
              Lay it on
            </Button>
            <Button
              variant="link"
              onClick={() => draft.change({ wanted, clay: withFace({ strokes: [] }) })}
            >
              Wipe the face bare
            </Button>
          </fieldset>
          <fieldset>
            <legend>Line you want</legend>
            {(
              [
                ["heel", 0.04],
                ["middle", 0.5],
                ["tip", 0.94],
              ] as const
            ).map(([name, share]) => (
              <QuantityInput
                key={name}
                label={`At the ${name}`}
                kind="length"
                value={Math.round(10 * (heightAt(wanted, share * blade.length_mm) ?? from)) / 10}
                range={[0.5, 300]}
                onChange={(h) => setWanted(share, h)}
              />
            ))}
            <Button
              variant="link"
              disabled={wanted.length === 0}
              onClick={() => draft.change({ clay, wanted: [] })}
            >
              No line
            </Button>
          </fieldset>
          <fieldset>
            <legend>Clay for it</legend>
            <QuantityInput
              label="Thinnest"
              kind="length"
              value={thinnest}
              range={[0.2, 10]}
              onChange={setThinnest}
            />
            <QuantityInput
              label="Thickest"
              kind="length"
              value={thickest}
              range={[0.2, 10]}
              onChange={setThickest}
            />
            <Button
              disabled={wanted.length === 0 || advise.isPending}
              onClick={() => advise.mutate()}
            >
              {advise.isPending ? "Looking…" : "Find the clay"}
            </Button>
          </fieldset>
          <p className="fine" aria-live="polite">
            {advise.data && foundClay(advise.data, say)}
            {advise.error ? problemOf(advise.error) : ""}
          </p>
          {lay && (
            <p className="fine">
              Mix {Math.ceil(lay.mix_g / 5) * 5} g of clay, a quarter of it to spare. Thickest{" "}
              {about(lay.thickest_mm)}: dry {show("time", Math.round(lay.dry_air_s / 3600) * 3600)}{" "}
              in the air, or {show("time", Math.round(lay.dry_oven_s / 900) * 900)} at{" "}
              {show("temperature", 200)}.
              {Math.abs(lay.left_more_percent) >= 2 &&
                ` The ${lay.left_more_percent > 0 ? "left" : "right"} face carries ${Math.abs(Math.round(lay.left_more_percent))} % more: it pulls to one side.`}
            </p>
          )}
          <p className="fine">
            Print at 1:1:{" "}
            <a
              href={`/api/v1/blades/${blade.id}/clay/sheet.pdf?units=${units.length}`}
              target="_blank"
              rel="noreferrer"
            >
              PDF
            </a>{" "}
            ·{" "}
            <a
              href={`/api/v1/blades/${blade.id}/clay/sheet.svg?units=${units.length}`}
              target="_blank"
              rel="noreferrer"
            >
              SVG
            </a>
            .{" "}
            <span className="caution-in">
              No clay dust in the breath; bone dry before the fire.
            </span>
          </p>
        </div>
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
  return stored.data ? <Board blade={blade} plan={plan} stored={stored.data} /> : null;
}
