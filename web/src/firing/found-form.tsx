import { useState } from "react";
import type { Finding, Firing, Light } from "../api/client";
import { useUnits } from "../quantity/units";
import { COLOURS } from "../readings/finding-kinds";
import { LIGHTS } from "../words/sightings";
import css from "./firing.module.css";
import { ReadHere } from "./read-here";

/** How far the blade is: what can be found of it hangs on that. */
export type Stage = "before" | "quenched" | "tempered";

/** What is asked at the fire. */
const QUESTIONS = {
  straight: "Straight?",
  cracked: "Cracked?",
  hard: "Hard?",
  grain: "Grain?",
  colour: "Temper colour?",
} as const;
export type Question = keyof typeof QUESTIONS;

const ASKED: Record<Stage, Question[]> = {
  before: ["straight"],
  quenched: ["straight", "cracked", "hard", "grain"],
  tempered: ["straight", "cracked", "hard", "colour", "grain"],
};

/** Where along the blade, as a share of its length from the heel. */
const PLACES = { heel: 0.15, middle: 0.5, tip: 0.85 } as const;
type Place = keyof typeof PLACES;
const PLACE_NAMES: Record<Place, string> = {
  heel: "by the heel",
  middle: "middle",
  tip: "by the tip",
};

/** Bows and twists to choose from, mm and degrees. */
const BOWS = [0.5, 1, 2, 3, 5, 8];
const TWISTS = [2, 5, 10];
/** Fractures of a coupon to choose from, as ASTM numbers of their grain. */
const FRACTURES: [string, number][] = [
  ["like velvet", 11],
  ["fine and dull", 9],
  ["seen by eye", 6.5],
  ["coarse, it sparkles", 4],
];
/** A file set, HRC. */
const FILES = [40, 45, 50, 55, 60, 65];

/** How far a blade is. */
export function stageOf(firing: Firing): Stage {
  if (firing.state.tempered) return "tempered";
  if (!firing.state.quenched) return "before";
  const lasting = firing.actions
    .slice(0, firing.state.position)
    .findLast((a) => a.mark === "tempering" || a.mark === "quenched");
  const begun = lasting?.mark === "tempering";
  return begun ? "tempered" : "quenched";
}

/** After what straightness is looked at. */
function after(firing: Firing, stage: Stage) {
  if (stage === "before") return "forging" as const;
  if (stage === "tempered") return "temper" as const;
  const straightened = firing.actions
    .slice(0, firing.state.position)
    .some((a) => firing.steps[a.step]?.kind === "straighten");
  return straightened ? ("straightening" as const) : ("quench" as const);
}

interface AnswerProps {
  firing: Firing;
  stage: Stage;
  onFound: (found: Finding) => void;
}

/** One of a few, pressed to choose it. */
function Choice<T extends string>(props: {
  title: string;
  of: Record<T, string>;
  value: T;
  onChoose: (value: T) => void;
}) {
  return (
    <fieldset className={`${css.colours} ${css["in-three"]}`}>
      <legend>{props.title}</legend>
      {(Object.keys(props.of) as T[]).map((key) => (
        <button
          key={key}
          type="button"
          aria-pressed={key === props.value}
          onClick={() => props.onChoose(key)}
        >
          {props.of[key]}
        </button>
      ))}
    </fieldset>
  );
}

function Straight({ firing, stage, onFound }: AnswerProps) {
  const { about } = useUnits();
  const [place, setPlace] = useState<Place>("middle");
  // Where it was looked at at several places, what was found at each; null where one press answers.
  const [several, setSeveral] = useState<Partial<Record<Place, number>> | null>(null);
  const length = firing.made.blade.length_mm;
  const at = (where: Place, off: number): [number, number] => [
    Math.round(PLACES[where] * length),
    off,
  ];
  const keep = (places: [number, number][]) =>
    onFound({ kind: "straight", after: after(firing, stage), places });
  const found = Object.entries(several ?? {}) as [Place, number][];
  const answer = (off: number) =>
    several ? setSeveral({ ...several, [place]: off }) : keep([at(place, off)]);
  return (
    <>
      <fieldset className={css.colours}>
        <legend>From heel to tip</legend>
        <button type="button" onClick={() => answer(0)}>
          {several ? `straight ${PLACE_NAMES[place]}` : "straight"}
        </button>
        <button
          type="button"
          aria-pressed={several !== null}
          onClick={() => setSeveral(several ? null : {})}
        >
          at several places
        </button>
      </fieldset>
      <Choice
        title={several ? "At" : "Bowed most"}
        of={PLACE_NAMES}
        value={place}
        onChoose={setPlace}
      />
      {found.length > 0 && (
        <div role="status">
          {found
            .map(([where, off]) =>
              off === 0
                ? `${PLACE_NAMES[where]} straight`
                : `${PLACE_NAMES[where]} ${about(Math.abs(off))} ${off > 0 ? "left" : "right"}`,
            )
            .join(", ")}
          <div className={css.alt}>
            <button type="button" onClick={() => keep(found.map(([where, off]) => at(where, off)))}>
              Keep these
            </button>
          </div>
        </div>
      )}
      {(["left", "right"] as const).map((side) => (
        <fieldset key={side} className={`${css.colours} ${css["in-three"]}`}>
          <legend>To the {side}, seen from the heel with the edge down</legend>
          {BOWS.map((mm) => (
            <button key={mm} type="button" onClick={() => answer(side === "left" ? mm : -mm)}>
              {about(mm)} {side}
            </button>
          ))}
        </fieldset>
      ))}
      <fieldset className={`${css.colours} ${css["in-three"]}`}>
        <legend>Twisted from heel to tip</legend>
        {TWISTS.map((degrees) => (
          <button key={degrees} type="button" onClick={() => onFound({ kind: "twist", degrees })}>
            {degrees}° twist
          </button>
        ))}
      </fieldset>
    </>
  );
}

function Cracked({ firing, onFound }: AnswerProps) {
  const { length_mm, width_mm } = firing.made.blade;
  const line = (place: Place, y: number) =>
    onFound({ kind: "crack", cracked: true, place: [Math.round(PLACES[place] * length_mm), y] });
  return (
    <>
      <fieldset className={css.colours}>
        <legend>Looked over in good light</legend>
        <button type="button" onClick={() => onFound({ kind: "crack", cracked: false })}>
          sound
        </button>
        <button type="button" onClick={() => onFound({ kind: "heard", sound: "ping" })}>
          a ping was heard
        </button>
      </fieldset>
      {(["edge", "back"] as const).map((side) => (
        <fieldset key={side} className={`${css.colours} ${css["in-three"]}`}>
          <legend>A line is seen at the {side}</legend>
          {(Object.keys(PLACES) as Place[]).map((place) => (
            <button
              key={place}
              type="button"
              onClick={() => line(place, side === "edge" ? 0 : width_mm)}
            >
              {side}, {PLACE_NAMES[place]}
            </button>
          ))}
        </fieldset>
      ))}
    </>
  );
}

function Hard({ stage, onFound }: AnswerProps) {
  const [warm, setWarm] = useState(false);
  const [skin, setSkin] = useState(stage === "quenched");
  const keep = (does: "skates" | "bites", hrc: number) =>
    onFound({
      kind: "file",
      stage: stage === "tempered" ? "tempered" : "as_quenched",
      ...(does === "skates" ? { low_hrc: hrc } : { high_hrc: hrc }),
      ...(warm ? { warm } : {}),
      ...(skin ? { skin_on: skin } : {}),
    });
  return (
    <>
      <fieldset className={css.colours}>
        <legend>The blade is</legend>
        <button type="button" aria-pressed={warm} onClick={() => setWarm(!warm)}>
          still warm
        </button>
        <button type="button" aria-pressed={skin} onClick={() => setSkin(!skin)}>
          with its skin on
        </button>
      </fieldset>
      {(["skates", "bites"] as const).map((does) => (
        <fieldset key={does} className={`${css.colours} ${css["in-three"]}`}>
          <legend>
            {does === "skates" ? "Hardest file that skates" : "Softest file that bites"}, HRC
          </legend>
          {FILES.map((hrc) => (
            <button key={hrc} type="button" onClick={() => keep(does, hrc)}>
              {hrc} {does}
            </button>
          ))}
        </fieldset>
      ))}
    </>
  );
}

function Colour({ onFound }: AnswerProps) {
  const [light, setLight] = useState<Light>("daylight");
  return (
    <>
      <Choice title="Light" of={LIGHTS} value={light} onChoose={setLight} />
      <fieldset className={css.colours}>
        <legend>On clean steel</legend>
        {COLOURS.map((colour) => (
          <button
            key={colour}
            type="button"
            onClick={() => onFound({ kind: "temper_colour", colour, light })}
          >
            {colour}
          </button>
        ))}
      </fieldset>
    </>
  );
}

function Grain({ onFound }: AnswerProps) {
  return (
    <fieldset className={css.colours}>
      <legend>A coupon of the same heat, broken: eye protection</legend>
      {FRACTURES.map(([name, astm]) => (
        <button key={name} type="button" onClick={() => onFound({ kind: "grain", astm })}>
          {name}
        </button>
      ))}
    </fieldset>
  );
}

const ANSWERS = { straight: Straight, cracked: Cracked, hard: Hard, grain: Grain, colour: Colour };

/** Asks what was found: one press keeps it. */
export function FoundForm(props: {
  firing: Firing;
  /** What the step at hand looks for. */
  first?: Question;
  onFound: (found: Finding) => void;
  onCancel: () => void;
}) {
  const { firing, onFound } = props;
  const stage = stageOf(firing);
  const asked = ASKED[stage];
  const [question, setQuestion] = useState<Question>(
    props.first && asked.includes(props.first) ? props.first : "straight",
  );
  const Answer = ANSWERS[question];
  return (
    <div className={css.say}>
      {asked.length > 1 && (
        <fieldset className={`${css.colours} ${css["in-three"]}`}>
          <legend>What was looked at</legend>
          {asked.map((q) => (
            <button
              key={q}
              type="button"
              aria-pressed={q === question}
              onClick={() => setQuestion(q)}
            >
              {QUESTIONS[q]}
            </button>
          ))}
        </fieldset>
      )}
      <Answer firing={firing} stage={stage} onFound={onFound} />
      {stage === "quenched" && question !== "colour" && (
        <p className={css.dim}>Glass-hard: eye protection, and no knocks.</p>
      )}
      <details>
        <summary>Readings, photograph</summary>
        <ReadHere firing={firing} />
      </details>
      <div className={css.alt}>
        <button type="button" onClick={props.onCancel}>
          Never mind
        </button>
      </div>
    </div>
  );
}
