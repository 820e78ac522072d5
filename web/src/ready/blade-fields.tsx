import { Button } from "react-bootstrap";
import type { Ready } from "../api/client";
import { useBars } from "../api/queries";
import { Choice } from "../fields/choice";
import { Text } from "../fields/text";
import { QuantityInput } from "../quantity/quantity-input";
import { useUnits } from "../quantity/units";
import { SteelByName } from "../steels/by-name";
import { useSteelOptions } from "../steels/steel-options";
import { GRINDS, ORDERS, PROTECTIONS, PURPOSE_TARGETS, PURPOSES, SHAPES } from "../words/names";
import type { BladeDraft, FieldErrors } from "./blade-draft";
import css from "./ready.module.css";

/** Other blades heated with it. */
const BESIDE: Record<string, string> = Object.fromEntries(
  [0, 1, 2, 3, 4, 5, 7, 9, 14, 19].map((n) => [String(n), n === 0 ? "alone" : `with ${n} others`]),
);

/** What the blade is, field by field. */
export function BladeFields({ draft, errors }: { draft: BladeDraft; errors: FieldErrors }) {
  const { now, set, setReady } = draft;
  const steels = useSteelOptions();
  const bars = useBars().data ?? [];
  const bar = bars.find((b) => b.id === now.bar_id);
  const { show } = useUnits();
  const own = !!now.ready.outline;
  return (
    <>
      <Text
        label="Name"
        max={80}
        value={now.name}
        error={errors.blade("name")}
        onChange={(name) => set({ name })}
      />
      <Text
        label="Mark"
        max={20}
        value={now.mark}
        error={errors.blade("mark")}
        onChange={(mark) => set({ mark })}
      />
      <Choice
        label="Steel"
        value={now.steel}
        options={steels}
        error={errors.blade("steel")}
        onChange={(steel) => set({ steel, bar_id: null })}
      />
      <SteelByName onChoose={(steel) => set({ steel, bar_id: null })} />
      <Choice
        label="From bar"
        value={now.bar_id ?? ""}
        options={Object.fromEntries(bars.map((b) => [b.id, b.name]))}
        placeholder="no bar"
        asIs
        error={errors.blade("bar_id")}
        onChange={(id) => {
          const bar = bars.find((b) => b.id === id);
          set(bar ? { bar_id: bar.id, steel: bar.steel } : { bar_id: null });
        }}
      />
      {bar && now.bar_id === draft.bar_id && (
        <div className={css.cut}>
          <QuantityInput
            label="Took of it"
            kind="length"
            value={now.cut_mm ?? 0}
            range={[0, 10_000]}
            error={errors.blade("cut_mm")}
            onChange={(cut_mm) => set({ cut_mm })}
          />
          {(now.cut_mm ?? 0) > 0 && (
            <Button variant="link" onClick={() => set({ cut_mm: 0 })}>
              Put it back
            </Button>
          )}
          <span className="soft">{show("length", bar.size.left_mm)} left in stock</span>
        </div>
      )}
      <Choice
        label="Shape"
        value={now.shape}
        options={SHAPES}
        error={errors.blade("shape")}
        onChange={(shape) => set({ shape })}
      />
      <QuantityInput
        label="Length, heel to tip"
        kind="length"
        value={now.length_mm}
        range={[10, 1000]}
        disabled={own}
        error={errors.blade("length_mm")}
        onChange={(length_mm) => set({ length_mm })}
      />
      <QuantityInput
        label="Width"
        kind="length"
        value={now.width_mm}
        range={[3, 300]}
        disabled={own}
        error={errors.blade("width_mm")}
        onChange={(width_mm) => set({ width_mm })}
      />
      <QuantityInput
        label="Spine"
        kind="length"
        value={now.spine_mm}
        range={[0.5, 25]}
        error={errors.blade("spine_mm")}
        onChange={(spine_mm) => set({ spine_mm })}
      />
      <QuantityInput
        label="Edge left"
        kind="length"
        value={now.edge_mm}
        range={[0.05, 25]}
        error={errors.blade("edge_mm")}
        onChange={(edge_mm) => set({ edge_mm })}
      />
      <Choice
        label="Grind"
        value={now.grind}
        options={GRINDS}
        error={errors.blade("grind")}
        onChange={(grind) => set({ grind })}
      />
      <Choice
        label="For"
        value={now.purpose}
        options={PURPOSES}
        error={errors.blade("purpose")}
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
        error={errors.blade("target_low_hrc")}
        onChange={(target_low_hrc) => set({ target_low_hrc })}
      />
      <QuantityInput
        label="Wanted, at most"
        kind="hardness"
        value={now.target_high_hrc}
        range={[0, 70]}
        error={errors.blade("target_high_hrc")}
        onChange={(target_high_hrc) => set({ target_high_hrc })}
      />
      <Choice
        label="Order of work"
        value={now.ready.order}
        options={ORDERS}
        onChange={(order) => setReady({ order: order as Ready["order"] })}
      />
      <Choice
        label="Protected by"
        value={now.ready.protection}
        options={PROTECTIONS}
        onChange={(p) => setReady({ protection: p as Ready["protection"] })}
      />
      <Choice
        label="In the fire"
        value={String(now.ready.beside)}
        options={BESIDE}
        error={errors.ready("beside")}
        onChange={(n) => setReady({ beside: Number(n) })}
      />
      <div className={css["note-field"]}>
        <Text
          label="Note"
          max={2000}
          value={now.note}
          error={errors.blade("note")}
          onChange={(note) => set({ note })}
        />
      </div>
    </>
  );
}
