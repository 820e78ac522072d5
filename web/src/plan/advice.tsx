import { Button } from "react-bootstrap";
import type { Prediction, Step } from "../api/client";
import { useUnits } from "../quantity/units";
import { changeLabel } from "../words/changes";
import { capital, hrc } from "../words/names";
import { alsoAt, because, next as nextInWords, temperFor } from "../words/reasons";
import { apply } from "./edit-plan";

type TemperForTarget = NonNullable<Prediction["temper_for_target"]>;

/** Every temper after the last quench at a temperature, °C. */
export function tempered(steps: Step[], temperature_c: number): Step[] {
  const quenched = steps.findLastIndex((s) => s.kind === "quench");
  return steps.map((s, i) => (s.kind === "temper" && i > quenched ? { ...s, temperature_c } : s));
}

/** The temper that gives what is wanted, when it is another than the planned one, °C. */
export function offeredTemper(prediction: Prediction | undefined, steps: Step[]): number | null {
  const offered = prediction?.temper_for_target?.temperature_c;
  const planned = steps.findLast((s) => s.kind === "temper");
  if (!offered || planned?.kind !== "temper") return null;
  return Math.abs(offered - planned.temperature_c) >= 1 ? offered : null;
}

function TemperAdvice({ target }: { target: TemperForTarget }) {
  const { show, say } = useUnits();
  if (!target.temperature_c) return temperFor(target, say);
  const between = target.interval_c
    ? `; 9 in 10 between ${show("temperature", target.interval_c.low)} and ${show("temperature", target.interval_c.high)}`
    : "";
  return `${capital(show("temperature", target.temperature_c))} gives ${hrc(target.wanted_hrc)} HRC, the middle of what you want${between}.${target.also ? ` ${alsoAt(target.also, say)}` : ""}`;
}

/** What to change next, and why. */
export function Advice(props: {
  prediction?: Prediction;
  steps: Step[];
  frozen: boolean;
  onFix: (to: (now: Step[]) => Step[]) => void;
}) {
  const { prediction, steps, frozen, onFix } = props;
  const { show, say } = useUnits();
  const target = prediction?.temper_for_target;
  const offered = frozen ? null : offeredTemper(prediction, steps);
  const next = prediction?.next;
  const bath = prediction?.reasons.find((r) => r.about === "bath");
  const soak = prediction?.outcome_reasons?.find((r) => r.about === "soak");
  return (
    <>
      {target && (
        <p className="advice">
          <TemperAdvice target={target} />
          {offered !== null && (
            <Button variant="link" onClick={() => onFix((now) => tempered(now, offered))}>
              Set {show("temperature", offered)}
            </Button>
          )}
        </p>
      )}
      {/* The temper for the wanted hardness is offered above already. */}
      {next && offered === null && (
        <p className="advice">
          {nextInWords(next, say)}
          {!frozen && (
            <Button variant="link" onClick={() => onFix((now) => apply(now, next.fix))}>
              {changeLabel(next.fix, say)}
            </Button>
          )}
        </p>
      )}
      {soak && <p className="advice">{because(soak, say)}</p>}
      {bath && <p className="advice">{because(bath, say)}</p>}
    </>
  );
}
