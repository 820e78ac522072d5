import type { Interval, Prediction, Reading, Reason } from "../api/client";
import { GaugeStrip } from "../drawing/gauge-strip";
import { useUnits } from "../quantity/units";
import { hrc } from "../words/names";
import type { Say } from "../words/quantities";
import { because, through } from "../words/reasons";
import { edgeLayer, layer } from "../words/steels";
import { DRIVERS, REMEDIES } from "../words/warp";
import css from "./prediction.module.css";

interface Props {
  prediction?: Prediction;
  wanted: [number, number];
  /** What was frozen when the blade was fired. */
  earlier?: Prediction;
  readings: Reading[];
  /** Heights of the hamon as measured, mm. */
  lines?: number[];
}

const about = (prediction: Prediction | undefined, what: Reason["about"]) =>
  [...(prediction?.reasons ?? []), ...(prediction?.outcome_reasons ?? [])].filter(
    (r) => r.about === what,
  );

/** The strongest thing the shop's own records say, as part of a sentence. */
function strongest(reasons: Reason[], say: Say): string {
  const learned = reasons
    .filter((r) => r.learned && r.effect_hrc)
    .sort((a, b) => Math.abs(b.effect_hrc ?? 0) - Math.abs(a.effect_hrc ?? 0))[0];
  if (!learned) return "";
  const effect = learned.effect_hrc ?? 0;
  return ` ${because(learned, say).replace(/\.$/, "")}: ${effect < 0 ? "−" : "+"}${Math.abs(effect).toFixed(1)}.`;
}

/** On a blade with clay: which place it speaks of. */
function there(prediction: Prediction | undefined, length: (mm: number) => string): string {
  const at = prediction?.reading_place;
  if (at?.clay_mm === null || at?.clay_mm === undefined) return "";
  const under = at.clay_mm > 0 ? `under ${length(at.clay_mm)} of clay` : "where it is bare";
  return ` Read ${length(at.from_heel_mm)} from the heel, ${length(at.above_edge_mm)} above the edge, ${under}.`;
}

function between(now: Interval | undefined): string {
  return now ? `9 in 10 between ${hrc(now.low)} and ${hrc(now.high)}.` : "";
}

function values(readings: Reading[], stage: string): number[] {
  return readings
    .filter((r) => r.stage === stage && !r.withdrawn_at)
    .flatMap((r) => r.values_hrc.filter((_, i) => !r.not_counted[i]));
}

const percent = (share: number) => (share < 0.0095 ? "under 1 %" : `${Math.round(100 * share)} %`);

/** A chance of warp from here on stands beside the bend without being asked for. */
const WORTH_SAYING = 0.05;

/** The chance of a sag sideways, what it is made of, and what helps most. */
function sideways(bend: NonNullable<Prediction["bend"]>, length: (mm: number) => string): string {
  const chance = `Sideways: ${percent(bend.side_over_tolerance_probability)} chance of more than ${length(bend.tolerance_mm)}`;
  const [first] = bend.parts ?? [];
  const known = Math.abs(bend.side_known_mm ?? 0);
  const most =
    known > (first?.mm ?? 0)
      ? `, ${length(known)} of it known`
      : first && bend.side_over_tolerance_probability >= 0.0095
        ? `, mostly ${DRIVERS[first.driver]}`
        : "";
  const help = bend.help
    ? ` ${REMEDIES[bend.help.remedy]}: ${percent(bend.help.probability)}.`
    : "";
  const clamped = bend.clamped
    ? ` Clamped in the temper${bend.clamped.shim_mm > 0 ? ` ${length(bend.clamped.shim_mm)} past straight` : ""} it is ${percent(bend.clamped.over_tolerance_probability)}; nine in ten end within ${length(bend.clamped.ninety_mm)}.`
    : "";
  return `${chance}${most}.${clamped}${help}`;
}

/** What will come of the plan, how sure that is, and why. */
export function Outcomes({ prediction, wanted, earlier, readings, lines = [] }: Props) {
  const { about: length, say } = useUnits();
  const tempered = about(prediction, "tempered");
  const austenite = about(prediction, "retained_austenite");
  const gain = austenite[0];
  const h = prediction?.hardness;
  const line = prediction?.hamon && "points" in prediction.hamon ? prediction.hamon : undefined;
  const bend = prediction?.bend;
  const crack = prediction?.crack;
  return (
    <div className={css.outcomes} aria-live="polite">
      <GaugeStrip
        name="Hardness"
        unit="HRC"
        scale={[50, 66]}
        wanted={wanted}
        now={h?.tempered}
        earlier={earlier?.hardness.tempered}
        recorded={values(readings, "tempered")}
        leads
        sentence={`${between(h?.tempered)}${strongest(tempered, say)}${there(prediction, length)}`}
        reasons={tempered}
      />
      {(prediction?.layers ?? []).map((l) => (
        <p key={`${l.role} ${l.steel_name}`} className={css.layer}>
          <b>{l.role}</b> {layer(l)}
        </p>
      ))}
      {prediction?.edge_layer && (
        <p className={css.layer}>{edgeLayer(prediction.edge_layer, say)}</p>
      )}
      <GaugeStrip
        name="As quenched"
        unit="HRC"
        scale={[55, 70]}
        now={h?.as_quenched}
        earlier={earlier?.hardness.as_quenched}
        recorded={values(readings, "as_quenched")}
        sentence={prediction ? through(prediction, say) : ""}
        reasons={about(prediction, "as_quenched")}
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
            ? `${because(gain, say).replace(/\.$/, "")}: +${gain.effect_hrc.toFixed(1)} HRC.`
            : gain
              ? because(gain, say)
              : ""
        }
        reasons={austenite}
      />
      {prediction?.ranges && bend && crack && (
        <>
          <GaugeStrip
            name="Hamon above edge"
            unit="mm"
            scale={[0, 30]}
            now={prediction.ranges.hamon_mm ?? undefined}
            earlier={earlier?.ranges?.hamon_mm ?? undefined}
            recorded={lines}
            words={line ? length(line.height_mm) : "none"}
            sentence=""
            reasons={[...about(prediction, "hamon"), ...about(prediction, "middle")]}
          />
          <GaugeStrip
            name="Bend"
            unit="mm"
            scale={[-2, 2]}
            wanted={[-bend.tolerance_mm, bend.tolerance_mm]}
            now={prediction.ranges.sori_mm}
            earlier={earlier?.ranges?.sori_mm}
            words={
              Math.abs(bend.sori_mm) < 0.05
                ? "straight"
                : `${length(Math.abs(bend.sori_mm))} to the ${bend.sori_mm > 0 ? "spine" : "edge"}`
            }
            sentence={sideways(bend, length)}
            leads={bend.side_over_tolerance_probability >= WORTH_SAYING}
            reasons={about(prediction, "bend")}
          />
          <GaugeStrip
            name="Grain"
            unit="ASTM"
            scale={[5, 12]}
            wanted={[8, 12]}
            now={prediction.ranges.grain_astm}
            earlier={earlier?.ranges?.grain_astm}
            sentence={`Skin without carbon: ${length(prediction.decarburization_mm ?? 0)} on each face.`}
            reasons={[...about(prediction, "grain"), ...about(prediction, "decarburization")]}
          />
          <GaugeStrip
            name="Crack"
            unit="%"
            digits={0}
            scale={[0, 30]}
            wanted={[0, 2]}
            now={{
              low: 100 * crack.low,
              middle: 100 * crack.probability,
              high: 100 * crack.high,
            }}
            words={percent(crack.probability)}
            sentence=""
            reasons={about(prediction, "crack")}
          />
        </>
      )}
    </div>
  );
}
