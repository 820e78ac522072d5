import type { Interval, Prediction, Reading, Reason } from "../api/client";
import { GaugeStrip } from "../drawing/gauge-strip";
import { hrc } from "../words/names";

interface Props {
  prediction?: Prediction;
  wanted: [number, number];
  /** What was frozen when the blade was fired. */
  earlier?: Prediction;
  readings: Reading[];
}

const about = (prediction: Prediction | undefined, what: Reason["about"]) =>
  (prediction?.reasons ?? []).filter((r) => r.about === what);

/** The strongest thing the shop's own records say, as part of a sentence. */
function strongest(reasons: Reason[]): string {
  const learned = reasons
    .filter((r) => r.learned && r.effect_hrc)
    .sort((a, b) => Math.abs(b.effect_hrc ?? 0) - Math.abs(a.effect_hrc ?? 0))[0];
  if (!learned) return "";
  const effect = learned.effect_hrc ?? 0;
  return ` ${learned.text.replace(/\.$/, "")}: ${effect < 0 ? "−" : "+"}${Math.abs(effect).toFixed(1)}.`;
}

function between(now: Interval | undefined): string {
  return now ? `9 in 10 between ${hrc(now.low)} and ${hrc(now.high)}.` : "";
}

function values(readings: Reading[], stage: string): number[] {
  return readings.filter((r) => r.stage === stage && !r.withdrawn_at).flatMap((r) => r.values_hrc);
}

/** What will come of the plan, how sure that is, and why. */
export function Outcomes({ prediction, wanted, earlier, readings }: Props) {
  const tempered = about(prediction, "tempered");
  const quenched = about(prediction, "as_quenched");
  const austenite = about(prediction, "retained_austenite");
  const gain = austenite[0];
  const h = prediction?.hardness;
  return (
    <div className="outcomes" aria-live="polite">
      <GaugeStrip
        name="Hardness"
        unit="HRC"
        scale={[50, 66]}
        wanted={wanted}
        now={h?.tempered}
        earlier={earlier?.hardness.tempered}
        recorded={values(readings, "tempered")}
        sentence={`${between(h?.tempered)}${strongest(tempered)}`}
        reasons={tempered}
      />
      <GaugeStrip
        name="As quenched"
        unit="HRC"
        scale={[55, 70]}
        now={h?.as_quenched}
        earlier={earlier?.hardness.as_quenched}
        recorded={values(readings, "as_quenched")}
        sentence={`${prediction?.through.text ?? ""}`}
        reasons={quenched}
      />
      <GaugeStrip
        name="Retained austenite"
        unit="%"
        digits={0}
        scale={[0, 30]}
        wanted={[0, 10]}
        now={prediction?.retained_austenite.with_plan}
        earlier={earlier?.retained_austenite.with_plan}
        sentence={
          gain?.effect_hrc
            ? `${gain.text.replace(/\.$/, "")}: +${gain.effect_hrc.toFixed(1)} HRC.`
            : (gain?.text ?? "")
        }
        reasons={austenite}
      />
    </div>
  );
}
