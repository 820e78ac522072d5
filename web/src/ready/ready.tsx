import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { ApiError, api, type Blade, type Plan, type Ready, take } from "../api/client";
import { queries, useBars, useFirings, useReadings } from "../api/queries";
import { Checks, Orders } from "../blade/checks";
import { BladeView } from "../drawing/blade-view";
import { Choice } from "../fields/choice";
import { Text } from "../fields/text";
import { Outcomes } from "../prediction/outcomes";
import { useOutline, usePrediction } from "../prediction/prediction";
import { QuantityInput } from "../quantity/quantity-input";
import { useSteelOptions } from "../steels/steel-options";
import { GRINDS, ORDERS, PROTECTIONS, PURPOSE_TARGETS, PURPOSES, SHAPES } from "../words/names";
import { Along } from "./along";
import { OutlineFile } from "./outline-file";

/** Other blades heated with it. */
const BESIDE: Record<string, string> = Object.fromEntries(
  [0, 1, 2, 3, 4, 5, 7, 9, 14, 19].map((n) => [String(n), n === 0 ? "alone" : `with ${n} others`]),
);

/** What the blade is, and what it is for. */
export function ReadyTab({ blade, plan }: { blade: Blade; plan?: Plan }) {
  const client = useQueryClient();
  const [now, setNow] = useState(blade);
  const steels = useSteelOptions();
  const bars = useBars().data ?? [];
  const firings = useFirings(blade.id);
  const readings = useReadings(blade.id);
  const predicted = usePrediction(now, plan?.steps);
  const preset = useOutline(now) ?? blade.outline;
  const own = now.ready.outline;
  const outline = Array.isArray(own) ? own : preset;
  const fields = predicted.error instanceof ApiError ? predicted.error.fields : {};
  const save = useMutation({
    mutationFn: (b: Blade) =>
      take(
        api.PATCH("/api/v1/blades/{id}", {
          params: { path: { id: blade.id } },
          body: {
            mark: b.mark,
            name: b.name,
            steel: b.steel,
            shape: b.shape,
            length_mm: b.length_mm,
            width_mm: b.width_mm,
            spine_mm: b.spine_mm,
            edge_mm: b.edge_mm,
            grind: b.grind,
            purpose: b.purpose,
            target_low_hrc: b.target_low_hrc,
            target_high_hrc: b.target_high_hrc,
            ready: b.ready,
            // No bar is said so: what is not named stays.
            bar_id: b.bar_id ?? null,
            note: b.note,
            version: b.version,
          },
        }),
      ),
    onSuccess: (stored) => {
      setNow(stored);
      client.setQueryData(queries.blade(blade.id).queryKey, stored);
      for (const key of ["blades", "maps", "help", "methods"]) {
        client.invalidateQueries({ queryKey: [key] });
      }
    },
  });
  const problem = save.error instanceof ApiError ? save.error : null;
  const error = (field: string) => problem?.fields[field] ?? fields[`blade.${field}`];
  const readyError = (field: string) => problem?.fields[`ready.${field}`] ?? fields[field];
  const setReady = (ready: Ready) => setNow({ ...now, ready });
  const set = (part: Partial<Blade>) => setNow({ ...now, ...part });
  const current =
    problem?.problem.status === 409 ? (problem.problem.current as Blade | undefined) : undefined;
  const dirty = JSON.stringify(now) !== JSON.stringify(blade);
  return (
    <div className="low ready">
      <div>
        <form
          className="grid"
          onSubmit={(e) => {
            e.preventDefault();
            save.mutate(now);
          }}
        >
          <Text
            label="Name"
            max={80}
            value={now.name}
            error={error("name")}
            onChange={(name) => set({ name })}
          />
          <Text
            label="Mark"
            max={20}
            value={now.mark}
            error={error("mark")}
            onChange={(mark) => set({ mark })}
          />
          <Choice
            label="Steel"
            value={now.steel}
            options={steels}
            error={error("steel")}
            onChange={(steel) => set({ steel, bar_id: null })}
          />
          <Choice
            label="From bar"
            value={now.bar_id ?? ""}
            options={Object.fromEntries(bars.map((b) => [b.id, b.name]))}
            placeholder="no bar"
            asIs
            error={error("bar_id")}
            onChange={(id) => {
              const bar = bars.find((b) => b.id === id);
              set(bar ? { bar_id: bar.id, steel: bar.steel } : { bar_id: null });
            }}
          />
          <Choice
            label="Shape"
            value={now.shape}
            options={SHAPES}
            error={error("shape")}
            onChange={(shape) => set({ shape })}
          />
          <QuantityInput
            label="Length, heel to tip"
            kind="length"
            value={now.length_mm}
            range={[10, 1000]}
            disabled={!!own}
            error={error("length_mm")}
            onChange={(length_mm) => set({ length_mm })}
          />
          <QuantityInput
            label="Width"
            kind="length"
            value={now.width_mm}
            range={[3, 300]}
            disabled={!!own}
            error={error("width_mm")}
            onChange={(width_mm) => set({ width_mm })}
          />
          <QuantityInput
            label="Spine"
            kind="length"
            value={now.spine_mm}
            range={[0.5, 25]}
            error={error("spine_mm")}
            onChange={(spine_mm) => set({ spine_mm })}
          />
          <QuantityInput
            label="Edge left"
            kind="length"
            value={now.edge_mm}
            range={[0.05, 25]}
            error={error("edge_mm")}
            onChange={(edge_mm) => set({ edge_mm })}
          />
          <Choice
            label="Grind"
            value={now.grind}
            options={GRINDS}
            error={error("grind")}
            onChange={(grind) => set({ grind })}
          />
          <Choice
            label="For"
            value={now.purpose}
            options={PURPOSES}
            error={error("purpose")}
            onChange={(purpose) => {
              const [low, high] = PURPOSE_TARGETS[purpose] ?? [59, 61];
              set({ purpose, target_low_hrc: low, target_high_hrc: high });
            }}
          />
          <QuantityInput
            label="Wanted, at least"
            kind="hardness"
            value={now.target_low_hrc}
            range={[0, 70]}
            error={error("target_low_hrc")}
            onChange={(target_low_hrc) => set({ target_low_hrc })}
          />
          <QuantityInput
            label="Wanted, at most"
            kind="hardness"
            value={now.target_high_hrc}
            range={[0, 70]}
            error={error("target_high_hrc")}
            onChange={(target_high_hrc) => set({ target_high_hrc })}
          />
          <Choice
            label="Order of work"
            value={now.ready.order}
            options={ORDERS}
            onChange={(order) => setReady({ ...now.ready, order: order as Ready["order"] })}
          />
          <Choice
            label="Protected by"
            value={now.ready.protection}
            options={PROTECTIONS}
            onChange={(p) => setReady({ ...now.ready, protection: p as Ready["protection"] })}
          />
          <Choice
            label="In the fire"
            value={String(now.ready.beside)}
            options={BESIDE}
            error={readyError("beside")}
            onChange={(n) => setReady({ ...now.ready, beside: Number(n) })}
          />
          <div className="note-field">
            <Text
              label="Note"
              max={2000}
              value={now.note}
              error={error("note")}
              onChange={(note) => set({ note })}
            />
          </div>
          <div className="wide row-of">
            <Button type="submit" disabled={!dirty || save.isPending}>
              Save blade
            </Button>
            <Button variant="link" disabled={!dirty} onClick={() => setNow(blade)}>
              Put back
            </Button>
            {dirty && !problem && <span className="soft">Changed, not saved yet.</span>}
          </div>
        </form>
        {current && (
          <div className="notice" role="alert">
            <span>
              Someone changed this blade meanwhile ({current.name}, {current.steel_name}). What you
              typed is still here.
            </span>
            <Button onClick={() => save.mutate({ ...now, version: current.version })}>
              Keep mine
            </Button>
            <Button
              variant="link"
              onClick={() => {
                setNow(current);
                client.setQueryData(queries.blade(blade.id).queryKey, current);
                save.reset();
              }}
            >
              Take theirs
            </Button>
          </div>
        )}
        {problem && !current && (
          <div className="notice" role="alert">
            <span>Not saved: {problem.message} What you typed is still here.</span>
          </div>
        )}
        <BladeView blade={now} outline={outline} steps={plan?.steps} height={200} />
        <Checks checks={predicted.data?.checks ?? []} ready={now.ready} onChange={setReady} />
        <Orders blade={now} plan={plan} />
        <Along ready={now.ready} sizes={now} errors={readyError} onChange={setReady} />
        {own ? (
          <p className="fine">
            It has an outline of its own, from a drawing.{" "}
            <Button variant="link" onClick={() => setReady({ ...now.ready, outline: null })}>
              Back to the {SHAPES[now.shape]}
            </Button>
          </p>
        ) : (
          <OutlineFile
            onTake={(read) =>
              setNow({
                ...now,
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
