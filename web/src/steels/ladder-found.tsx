import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { v7 as uuid } from "uuid";
import { api, type LadderView, problemOf, type StepDraft, take } from "../api/client";
import { useSteels } from "../api/queries";
import { QuantityInput } from "../quantity/quantity-input";
import { useUnits } from "../quantity/units";
import { laddered } from "../words/ladders";
import css from "./steels.module.css";

/** The steps from the heat that a ladder found best, to be kept as a method of the shop. */
function stepsOf(ladder: LadderView, best: number, temper: number): StepDraft[] {
  const { soak_s, medium, bath_c } = ladder.treatment;
  return [
    { kind: "austenitize", temperature_c: best, soak_s },
    { kind: "quench", stages: [{ medium, bath_c }] },
    { kind: "temper", temperature_c: temper, hold_s: 7200, times: 2 },
  ];
}

/** What a ladder says, and what can be done with it. */
export function LadderFound({ ladder }: { ladder: LadderView }) {
  const client = useQueryClient();
  const { say } = useUnits();
  const steels = useSteels();
  const steel = steels.data?.find((s) => s.key === ladder.steel);
  const [temper, setTemper] = useState(ladder.treatment.heat_c > 1100 ? 540 : 200);
  const keep = useMutation({
    mutationFn: (best: number) =>
      take(
        api.POST("/api/v1/methods", {
          body: {
            id: uuid(),
            name: `${ladder.name}: best`.slice(0, 80),
            note: "",
            steps: stepsOf(ladder, best, temper),
          },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ["methods"] }),
  });
  const { found } = ladder;
  if (!found) {
    return (
      <p className="soft">Three coupons that were read say something; before, it is a guess.</p>
    );
  }
  const window: [number, number] | undefined =
    steel && !steel.house ? [steel.austenitize_low_c, steel.austenitize_high_c] : undefined;
  const best = found.along === "heats" ? found.best_c : null;
  return (
    <section className={css["trial-step"]} aria-label="What it says" aria-live="polite">
      <h2>What it says</h2>
      {laddered(found, window, say).map((told) => (
        <p key={told}>{told}</p>
      ))}
      {found.along === "tempers" && found.for_hrc.length > 0 && (
        <table className={css["for-hrc"]}>
          <caption>Temper for a hardness, in your oven</caption>
          <tbody>
            <tr>
              {found.for_hrc.map(([h]) => (
                <th key={h} scope="col">
                  {h} HRC
                </th>
              ))}
            </tr>
            <tr>
              {found.for_hrc.map(([h, t]) => (
                <td key={h} className="num">
                  {say.temperature(t ?? 0)}
                </td>
              ))}
            </tr>
          </tbody>
        </table>
      )}
      {best != null && (
        <div className="row-of">
          <QuantityInput
            label="Tempered twice, two hours each, at"
            kind="temperature"
            value={temper}
            range={[80, 700]}
            onChange={setTemper}
          />
          <Button
            variant="outline-primary"
            disabled={keep.isPending || keep.isSuccess}
            onClick={() => keep.mutate(best)}
          >
            Keep {say.temperature(best)} as a method of the shop
          </Button>
          {keep.isSuccess && <span role="status">Kept: a plan of any blade offers it.</span>}
          {keep.error && <span className="notice">{problemOf(keep.error)}</span>}
        </div>
      )}
    </section>
  );
}
