import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { api, type Step, take } from "../api/client";
import { NumberField } from "../fields/number";
import { QuantityInput } from "../quantity/quantity-input";
import { useUnits } from "../quantity/units";
import { percent } from "../words/quantities";

type Stage = Extract<Step, { kind: "quench" }>["stages"][number];

/** A bar to warm a bath with: a kilogram, red. */
const BAR = { kg: 1, c: 700 };

/** Thinner by so much is worth a word. */
const THICKER = 1.15;

/** How warm a hot bar makes the bath, and whether it has to be warmed at all. */
export function BathHelp(props: {
  stage: Stage;
  number: number;
  onChange: (part: Partial<Stage>) => void;
  error: (field: string) => string | undefined;
}) {
  const { stage, number, onChange, error } = props;
  const { say } = useUnits();
  const [kg, setKg] = useState<number>(BAR.kg);
  const [barC, setBarC] = useState<number>(BAR.c);
  const litres = stage.litres ?? undefined;
  const body = {
    medium: stage.medium,
    litres,
    bath_c: stage.bath_c,
    bar_kg: kg,
    bar_c: barC,
  };
  const bath = useQuery({
    queryKey: ["bath", body],
    queryFn: () => take(api.POST("/api/v1/bath", { body })),
    placeholderData: (before) => before,
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const { warmth, thickness, convection } = bath.data ?? {};
  return (
    <>
      <NumberField
        label="Litres"
        value={litres ?? null}
        error={error(`stages[${number}].litres`)}
        onChange={(v) => onChange({ litres: v ?? undefined })}
      />
      {litres !== undefined && (
        <>
          <NumberField
            label="Blades at once"
            value={stage.blades ?? 1}
            error={error(`stages[${number}].blades`)}
            onChange={(v) => onChange({ blades: v === null ? undefined : Math.round(v) })}
          />
          <NumberField
            label="Warmed by a bar, kg"
            value={kg}
            onChange={(v) => v !== null && setKg(v)}
          />
          <QuantityInput
            label="Bar at"
            kind="temperature"
            value={barC}
            range={[20, 1300]}
            onChange={setBarC}
          />
        </>
      )}
      {bath.error && <p role="status">{bath.error.message}</p>}
      {warmth && !bath.error && (
        <p role="status">
          From {say.temperature(stage.bath_c)} it gets to <b>{say.temperature(warmth.after_c)}</b>.{" "}
          {!warmth.too_hot && (
            <Button variant="link" onClick={() => onChange({ bath_c: Math.round(warmth.after_c) })}>
              Take that
            </Button>
          )}
        </p>
      )}
      {warmth?.too_hot && !bath.error && (
        <p className="caution" role="alert">
          Too hot: over {say.temperature(warmth.most_c)} it smokes, boils or burns. A smaller or
          cooler bar, or more of the bath; lid and extinguisher in reach.
        </p>
      )}
      {thickness != null && convection != null && (
        <p className="soft">
          {thickness > THICKER
            ? `At ${say.temperature(stage.bath_c)} this oil is ${thickness.toFixed(1)} times as thick as when it is warm: it boils nearly the same, so that steel is hard by the same curve, and below the boiling it takes ${percent(1 - convection)} less. Warm it for thick blades and for the same result every time.`
            : thickness < 1 / THICKER
              ? `Hotter than usual: thinner, and ${percent(convection - 1)} quicker below the boiling; nearer to its flash point.`
              : "As warm as it is usually used: it needs no more."}
        </p>
      )}
    </>
  );
}
