import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import type { Firing, Step } from "../api/client";
import { serverNow } from "../api/clock";
import { Boundary } from "../boundary";
import { stepSentence } from "../drawing/step-words";
import { singleKey } from "../keys";
import { useUnits } from "../quantity/units";
import { useNow } from "../rack/now";
import { action, doing } from "../words/firing";
import { manner } from "../words/manner";
import { STEPS } from "../words/names";
import { sighting } from "../words/sightings";
import { Cautions } from "./cautions";
import { ClockFace } from "./clock-face";
import { orderOf } from "./course";
import { FireStrip } from "./fire-strip";
import css from "./firing.module.css";
import { stageOf } from "./found-form";
import { journal } from "./journal";
import { useKiln } from "./kiln-line";
import { LookingAhead } from "./looking-ahead";
import { NextAcross } from "./next-across";
import { type Kept, Panel, type Which } from "./panel";
import { PlainHttp } from "./plain-http";
import { event, moment, type What } from "./press";
import { RingSetting } from "./ring-setting";
import { isHeat } from "./seen-form";
import { useSignals } from "./signal";
import { Thread } from "./thread";
import { type Odd, oddPress } from "./timing";
import { lastEvent, lastWith, standingWith } from "./together";
import { Asking, KeptSight, LastDeviation, LastFound } from "./told-last";
import { Waiting } from "./waiting";
import { useAwake } from "./wake";
import { straightenNow } from "./window";

const TOGETHER = "vatten.together";

/** Writes presses into the journal; a press that bounces is one press. */
function useWrite() {
  const writing = useRef(false);
  return useCallback(async (events: { firing: string; what: What }[], then?: number) => {
    if (writing.current) return [];
    writing.current = true;
    try {
      const at = moment(then);
      const all = events.map(({ firing, what }) => ({ firing, body: event(what, at) }));
      await journal.add(all);
      return all.map((e) => e.body.id);
    } finally {
      writing.current = false;
    }
  }, []);
}

/** Whether the blades that stand at the same step go on together; kept on this device. */
function useTogether() {
  const [together, setTogether] = useState(() => localStorage.getItem(TOGETHER) === "yes");
  const toggle = () => {
    localStorage.setItem(TOGETHER, together ? "no" : "yes");
    setTogether(!together);
  };
  return [together, toggle] as const;
}

/** A press that was asked about stands so long, ms. */
const ASKED_MS = 15_000;

/** On to the next, and back: pressed, or with Space and u. */
function usePresses(options: {
  firing: Firing;
  all: Firing[];
  together: boolean;
  going: Firing[];
  /** When the kiln was back at heat, ms. */
  back: number | null;
  /** It is far too early or late for the press: it is asked once. */
  odd: Odd | null;
  write: ReturnType<typeof useWrite>;
}) {
  const { firing, all, together, going, back, odd, write } = options;
  const navigate = useNavigate();
  const { position } = firing.state;
  const done = position >= firing.actions.length;
  // Asked at this place and moment: the next press is meant, and counts from the first.
  const [asked, setAsked] = useState<{ position: number; ms: number } | null>(null);
  const stands = asked?.position === position && serverNow() - asked.ms < ASKED_MS ? asked : null;
  const asking = odd && stands ? odd : null;
  const forward = useCallback(async () => {
    if (firing.closed_at) return;
    if (odd && !stands) {
      setAsked({ position, ms: serverNow() });
      return;
    }
    setAsked(null);
    if (done) {
      await write([{ firing: firing.id, what: { kind: "close" } }]);
      // With the server gone there is nothing to go to yet.
      if (!journal.snapshot().gone) navigate(`/blades/${firing.blade_id}/readings`);
      return;
    }
    await write(
      going.map((f) => ({ firing: f.id, what: { kind: "confirm", action: f.state.position } })),
      // The soak counts from when the kiln was back, not from when somebody looked.
      back ?? (odd ? stands?.ms : undefined),
    );
  }, [firing, done, going, write, navigate, back, odd, stands, position]);
  const undo = useCallback(() => {
    if (firing.closed_at || !lastEvent(firing)) return;
    const those = together ? lastWith(firing, all) : [firing];
    write(those.map((f) => ({ firing: f.id, what: { kind: "undo", event: lastEvent(f) } })));
  }, [firing, together, all, write]);
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const key = singleKey(event);
      if (key === " ") {
        event.preventDefault();
        if (!event.repeat) forward();
      } else if (key === "u") {
        event.stopImmediatePropagation();
        if (!event.repeat) undo();
      }
    };
    window.addEventListener("keydown", press, true);
    return () => window.removeEventListener("keydown", press, true);
  }, [forward, undo]);
  return { forward, undo, done, asking };
}

/** Which blade it is, and the step it is at. */
function Heading({ firing, stepAt }: { firing: Firing; stepAt: number }) {
  const { show, say } = useUnits();
  const step = firing.steps[stepAt];
  const how = step ? manner(step, say) : "";
  return (
    <>
      <div className="row-of">
        <b>
          {firing.mark} {firing.name}
        </b>
        <span className={css.dim}>
          step {orderOf(firing).indexOf(stepAt) + 1} of {orderOf(firing).length}
        </span>
      </div>
      <div className={`row-of ${css.dim}`}>
        <span>
          {firing.steel_name}
          {firing.state.operator && `, ${firing.state.operator} quenches`}
        </span>
        <span>
          {step ? stepSentence(step, show) : ""}
          {step && "by" in step && step.by && `: ${sighting(step.by)}`}
        </span>
      </div>
      {how && <div className={css.dim}>{how}</div>}
    </>
  );
}

/** What the smith is doing now, in a few words. */
function headline(firing: Firing): string {
  const { actions } = firing;
  const { position } = firing.state;
  if (firing.state.end === "mistake") return "Begun by mistake";
  if (firing.state.end === "abandoned") return "Abandoned";
  if (firing.closed_at) return "Closed";
  if (position >= actions.length) return "All steps are done";
  const [last, next] = [actions[position - 1], actions[position]];
  if (last) return doing(last.doing);
  return next ? `${STEPS[firing.steps[next.step]?.kind ?? "quench"]} comes first` : "";
}

/** What else can be pressed. */
function Others(props: {
  firing: Firing;
  step: Step | undefined;
  onUndo: () => void;
  onOpen: (which: Which) => void;
}) {
  const { firing, step, onOpen } = props;
  const { position } = firing.state;
  const closed = !!firing.closed_at;
  return (
    <div className={css.alt}>
      <button type="button" disabled={!lastEvent(firing) || closed} onClick={props.onUndo}>
        Undo
      </button>
      {isHeat(step) && position > 0 && (
        <button type="button" disabled={closed} onClick={() => onOpen("seen")}>
          Colour, magnet
        </button>
      )}
      {(position === 0 || stageOf(firing) !== "before") && (
        <button type="button" onClick={() => onOpen("found")}>
          Found
        </button>
      )}
      <button type="button" disabled={closed} onClick={() => onOpen("said")}>
        It went otherwise
      </button>
      <Link to={`/blades/${firing.blade_id}/fire`}>Leave</Link>
    </div>
  );
}

/** One blade at the fire. */
export function AtTheFire({ firing, all }: { firing: Firing; all: Firing[] }) {
  const { say } = useUnits();
  const tick = useNow(firing.state.position > 0 ? 100 : 250);
  // The tick makes it anew; what is shown is the time of the server.
  const now = useMemo(() => (tick > 0 ? serverNow() : 0), [tick]);
  const [panel, setPanel] = useState<Which | null>(null);
  const [kept, setKept] = useState<Kept | null>(null);
  const [together, toggleTogether] = useTogether();
  useAwake(!firing.closed_at);
  const { actions } = firing;
  const { position } = firing.state;
  const [last, next] = [actions[position - 1], actions[position]];
  const going = together ? standingWith(firing, all) : [firing];
  const kiln = useKiln(firing, now);
  const write = useWrite();
  const back = kiln?.back ?? null;
  const since = firing.state.confirmed_ms.at(-1);
  const lasts = last?.lasts_s ?? undefined;
  const odd = oddPress(last, since, now);
  const { forward, undo, done, asking } = usePresses({
    firing,
    all,
    together,
    going,
    back,
    odd,
    write,
  });
  const straighten = straightenNow(firing, now, say);
  // The end of a hold is rung for wherever somebody is; this is for the window that is looked at.
  const [opens, closes] = [straighten?.opens, straighten?.closes];
  useSignals(
    now,
    useMemo(() => [opens, closes], [opens, closes]),
  );
  const stepAt = (last ?? next)?.step ?? orderOf(firing).at(-1) ?? 0;
  const step = firing.steps[stepAt];
  return (
    <div className={css["lights-out"]}>
      <Heading firing={firing} stepAt={stepAt} />
      <Boundary>
        <FireStrip
          front={firing.id}
          all={all}
          now={now}
          together={together}
          with={going.length}
          onTogether={toggleTogether}
        />
      </Boundary>
      {!panel && (
        <Boundary>
          <NextAcross bladeId={firing.blade_id} now={now} />
        </Boundary>
      )}
      {!panel && (
        <Boundary>
          <Thread firing={firing} step={orderOf(firing).indexOf(stepAt)} />
        </Boundary>
      )}
      <h1>{headline(firing)}</h1>
      <ClockFace now={now} since={since} lasts={lasts} />
      <Waiting firing={firing} />
      <Cautions firing={firing} now={now} kiln={kiln} straighten={straighten} />
      {!panel && (
        <Boundary>
          <LookingAhead
            firing={firing}
            onTemper={(step, temperature_c) =>
              write([
                {
                  firing: firing.id,
                  what: { kind: "deviate", how: { deviation: "heat", step, temperature_c } },
                },
              ])
            }
          />
        </Boundary>
      )}
      <LastFound
        firing={firing}
        onTakeBack={(id) => write([{ firing: firing.id, what: { kind: "undo", event: id } }])}
        onDo={(all) => write(all.map((what) => ({ firing: firing.id, what })))}
      />
      <PlainHttp />
      {firing.state.position === 0 && <RingSetting />}
      {panel && (
        <Panel
          which={panel}
          firing={firing}
          all={all}
          going={going}
          stepAt={stepAt}
          now={now}
          write={write}
          onKept={setKept}
          onClose={() => setPanel(null)}
        />
      )}
      {!panel && (
        <div className={css.bottom}>
          <LastDeviation firing={firing} onTakeBack={undo} />
          {kept?.stepAt === stepAt && (
            <KeptSight
              by={kept.by}
              onTakeBack={() => {
                write([{ firing: firing.id, what: { kind: "undo", event: kept.id } }]);
                setKept(null);
              }}
            />
          )}
          {firing.closed_at ? (
            <Link className={css.big} to={`/blades/${firing.blade_id}/readings`}>
              To the readings
            </Link>
          ) : (
            <button
              type="button"
              className={asking ? `${css.big} ${css.asking}` : css.big}
              onClick={forward}
            >
              {done || !next ? "Close the firing" : action(next.kind, say)}
              {asking && <Asking odd={asking} since={since} lasts={lasts} now={now} />}
              {going.length > 1 && <span className={css["how-many"]}> {going.length} blades</span>}
            </button>
          )}
          <Others firing={firing} step={step} onUndo={undo} onOpen={setPanel} />
        </div>
      )}
    </div>
  );
}
