import { useEffect, useRef, useState } from "react";
import type { Firing, Medium, Step } from "../api/client";
import { useStations } from "../api/queries";
import { stepSentence } from "../drawing/step-words";
import { useUnits } from "../quantity/units";
import { choice } from "../words/deviations";
import { MEDIA } from "../words/names";
import { type Choice, choices, leavesHard } from "./choices";
import css from "./firing.module.css";
import { Joining } from "./joining";
import { rounds, type Said, SayForm } from "./say-form";
import { type Ending, StopHere } from "./stop-here";

/** What is asked: in what way it goes on, into which bath, which blade joins, how it really was, how it ends. */
type Asked = "ways" | "bath" | "joins" | "was" | "stop";

const ASKED: Record<Asked, string> = {
  ways: "Goes on otherwise",
  bath: "Another bath",
  joins: "Another blade joins",
  was: "What really was",
  stop: "Stop here",
};

/** The quench at hand or next, and which of its baths. */
export function bathAtHand(firing: Firing): { number: number; round: number; step: Step } | null {
  const { actions, steps } = firing;
  const { position } = firing.state;
  for (const action of [actions[position], actions[position - 1]]) {
    const step = action && steps[action.step];
    if (action?.kind.code === "into_bath" && step?.kind === "quench") {
      return { number: action.step, round: action.round ?? 0, step };
    }
  }
  return null;
}

function Bath({ now, onBath }: { now: Medium | undefined; onBath: (medium: Medium) => void }) {
  const stations = useStations().data ?? [];
  /** The tanks of the shop that have it in them. */
  const tanks = (medium: Medium) =>
    stations.filter((s) => s.kind === "tank" && s.medium === medium && !s.retired_at);
  const all = (Object.keys(MEDIA) as Medium[]).filter((medium) => medium !== now);
  // What the shop has stands first.
  const mine = all.filter((medium) => tanks(medium).length > 0);
  const others = all.filter((medium) => tanks(medium).length === 0);
  return (
    <fieldset className={css.colours}>
      <legend>It goes, or went, into</legend>
      {mine.map((medium) => (
        <button key={medium} type="button" onClick={() => onBath(medium)}>
          {tanks(medium)
            .map((s) => s.name)
            .join(" or ")}
          : {MEDIA[medium]}
        </button>
      ))}
      {others.map((medium) => (
        <button key={medium} type="button" onClick={() => onBath(medium)}>
          {MEDIA[medium]}
        </button>
      ))}
      <p className={css.dim}>
        Oil flashes, water spits: lid and extinguisher in reach, face shield on, before it goes in.
      </p>
    </fieldset>
  );
}

function Ways({ firing, onWay }: { firing: Firing; onWay: (way: Choice) => void }) {
  const [asked, setAsked] = useState<Choice | null>(null);
  const all = choices(firing);
  if (asked) {
    const hard = asked.what === "left_out";
    return (
      <div className={`${css.caut} ${css.strong} ${css.ask}`} role="alert">
        {hard
          ? "Without this temper it stays as brittle as glass: it can crack by itself in the hours to come, and chips fly when it is dropped, struck or ground. Eyes covered, and temper it before anyone uses it."
          : "Quenched again straight from hard it cracks and warps more easily, and the grain is what it was: normalize it first where you can. It has to be cold all through."}
        <div className={css.alt}>
          <button type="button" onClick={() => onWay(asked)}>
            {hard ? "Leave it out" : "Harden it again"}
          </button>
          <button type="button" onClick={() => setAsked(null)}>
            No
          </button>
        </div>
      </div>
    );
  }
  return (
    <fieldset className={css.colours}>
      <legend>From here on</legend>
      {all.map((one) => (
        <button
          key={one.key}
          type="button"
          onClick={() =>
            (one.what === "harden_again" && one.from === "austenitize") || leavesHard(firing, one)
              ? setAsked(one)
              : onWay(one)
          }
        >
          {choice(one)}
        </button>
      ))}
      {all.length === 0 && <p>Nothing of it can be changed now.</p>}
    </fieldset>
  );
}

/** It went otherwise, or goes on otherwise: one press each. */
export function Otherwise(props: {
  firing: Firing;
  all: Firing[];
  stepAt: number;
  onWay: (way: Choice) => void;
  onBath: (number: number, round: number, medium: Medium) => void;
  onSay: (said: Said | null, operator: string | null) => void;
  onEnd: (end: Ending) => void;
  onJoined: () => void;
  onCancel: () => void;
}) {
  const { firing, stepAt } = props;
  const { show } = useUnits();
  const [asked, setAsked] = useState<Asked>("ways");
  const step = firing.steps[stepAt];
  const bath = bathAtHand(firing);
  const last = firing.actions[firing.state.position - 1];
  const medium =
    bath?.step.kind === "quench"
      ? firing.actions.flatMap((a) =>
          a.step === bath.number && a.kind.code === "into_bath" && (a.round ?? 0) === bath.round
            ? [a.kind.medium]
            : [],
        )[0]
      : undefined;
  const questions = (Object.keys(ASKED) as Asked[]).filter(
    (q) => (q !== "bath" || bath) && (q !== "was" || step),
  );
  // What is asked is all on the screen, whatever stood above it.
  const top = useRef<HTMLDivElement>(null);
  useEffect(() => {
    top.current?.scrollIntoView?.({ block: "start" });
  }, []);
  return (
    <>
      <div className={css.say} ref={top}>
        <fieldset className={`${css.colours} ${css["in-three"]}`}>
          <legend>It went otherwise</legend>
          {questions.map((q) => (
            <button key={q} type="button" aria-pressed={q === asked} onClick={() => setAsked(q)}>
              {ASKED[q]}
            </button>
          ))}
        </fieldset>
        {asked === "ways" && <Ways firing={firing} onWay={props.onWay} />}
        {asked === "bath" && bath && (
          <Bath now={medium} onBath={(m) => props.onBath(bath.number, bath.round, m)} />
        )}
        {asked === "joins" && <Joining firing={firing} all={props.all} onJoined={props.onJoined} />}
        {asked === "stop" && <StopHere firing={firing} onEnd={props.onEnd} />}
        {asked !== "was" && (
          <div className={css.alt}>
            <button type="button" onClick={props.onCancel}>
              Never mind
            </button>
          </div>
        )}
      </div>
      {asked === "was" && step && (
        <SayForm
          key={stepAt}
          title={stepSentence(step, show)}
          rounds={rounds(step)}
          now={last?.step === stepAt ? (last.round ?? 0) : 0}
          every={step.kind === "temper"}
          onCancel={props.onCancel}
          operator={firing.state.operator ?? ""}
          onSay={props.onSay}
        />
      )}
    </>
  );
}
