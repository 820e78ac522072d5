import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import type { Firing, Sighting, Step } from "../api/client";
import { serverNow } from "../api/clock";
import { Boundary } from "../boundary";
import { stepSentence } from "../drawing/step-words";
import { singleKey } from "../keys";
import { useUnits } from "../quantity/units";
import { useNow } from "../rack/now";
import { told } from "../readings/finding-kinds";
import { action, doing } from "../words/firing";
import { doNow } from "../words/found";
import { STEPS } from "../words/names";
import { sighting } from "../words/sightings";
import { Cautions } from "./cautions";
import { ClockFace } from "./clock-face";
import { FireStrip } from "./fire-strip";
import css from "./firing.module.css";
import { stageOf } from "./found-form";
import { journal } from "./journal";
import { useKiln } from "./kiln-line";
import { type Kept, Panel, type Which } from "./panel";
import { PlainHttp } from "./plain-http";
import { event, moment, type What } from "./press";
import { isHeat } from "./seen-form";
import { useSignals } from "./signal";
import { Thread } from "./thread";
import { soundAt } from "./timing";
import { lastEvent, lastWith, standingWith } from "./together";
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

/** On to the next, and back: pressed, or with Space and u. */
function usePresses(options: {
  firing: Firing;
  all: Firing[];
  together: boolean;
  going: Firing[];
  /** When the kiln was back at heat, ms. */
  back: number | null;
  write: ReturnType<typeof useWrite>;
}) {
  const { firing, all, together, going, back, write } = options;
  const navigate = useNavigate();
  const { position } = firing.state;
  const done = position >= firing.actions.length;
  const forward = useCallback(async () => {
    if (firing.closed_at) return;
    if (done) {
      await write([{ firing: firing.id, what: { kind: "close" } }]);
      // With the server gone there is nothing to go to yet.
      if (!journal.snapshot().gone) navigate(`/blades/${firing.blade_id}/readings`);
      return;
    }
    await write(
      going.map((f) => ({ firing: f.id, what: { kind: "confirm", action: f.state.position } })),
      // The soak counts from when the kiln was back, not from when somebody looked.
      back ?? undefined,
    );
  }, [firing, done, going, write, navigate, back]);
  const undo = useCallback(() => {
    if (firing.closed_at || position === 0) return;
    const those = together ? lastWith(firing, all) : [firing];
    write(those.map((f) => ({ firing: f.id, what: { kind: "undo", event: lastEvent(f) } })));
  }, [firing, position, together, all, write]);
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
  return { forward, undo, done };
}

/** Which blade it is, and the step it is at. */
function Heading({ firing, stepAt }: { firing: Firing; stepAt: number }) {
  const { show } = useUnits();
  const step = firing.steps[stepAt];
  return (
    <>
      <div className="row-of">
        <b>
          {firing.mark} {firing.name}
        </b>
        <span className={css.dim}>
          step {stepAt + 1} of {firing.steps.length}
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

/** What was seen last, to be taken back. */
function KeptSight(props: { by: Sighting; onTakeBack: () => void }) {
  return (
    <div className={css["kept-sight"]} role="status">
      <span>Kept: {sighting(props.by)}.</span>
      <button type="button" onClick={props.onTakeBack}>
        Take it back
      </button>
    </div>
  );
}

/** What was found last since it stands where it stands, and what that asks for now. */
function LastFound({ firing, onTakeBack }: { firing: Firing; onTakeBack: (id: string) => void }) {
  const { about, say } = useUnits();
  const all = firing.state.found ?? [];
  const last = all.at(-1);
  if (!last) return null;
  // A finding that the server has not seen yet asks for nothing yet.
  const now = firing.now[all.length - 1];
  const strong = now?.code === "stop" || now?.code === "harden_again";
  return (
    <div className={strong ? `${css.caut} ${css.strong}` : css.caut} role="status">
      <div>{told(last.found, about)}.</div>
      {now && <div>{doNow(now, say)}</div>}
      {!firing.closed_at && (
        <div className={css.alt}>
          <button type="button" onClick={() => onTakeBack(last.event)}>
            Take it back
          </button>
        </div>
      )}
    </div>
  );
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
      <button type="button" disabled={position === 0 || closed} onClick={props.onUndo}>
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
  const { forward, undo, done } = usePresses({ firing, all, together, going, back, write });

  const since = firing.state.confirmed_ms.at(-1);
  const lasts = last?.lasts_s ?? undefined;
  const straighten = straightenNow(firing, now, say);
  const [due, opens, closes] = [soundAt(since, lasts), straighten?.opens, straighten?.closes];
  useSignals(
    now,
    useMemo(() => [due, opens, closes], [due, opens, closes]),
  );
  const stepAt = (last ?? next)?.step ?? firing.steps.length - 1;
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
          <Thread firing={firing} step={stepAt} />
        </Boundary>
      )}
      <h1>{headline(firing)}</h1>
      <ClockFace now={now} since={since} lasts={lasts} />
      <Waiting firing={firing} />
      <Cautions firing={firing} now={now} kiln={kiln} straighten={straighten} />
      <LastFound
        firing={firing}
        onTakeBack={(id) => write([{ firing: firing.id, what: { kind: "undo", event: id } }])}
      />
      <PlainHttp />
      {panel && (
        <Panel
          which={panel}
          firing={firing}
          stepAt={stepAt}
          now={now}
          write={write}
          onKept={setKept}
          onClose={() => setPanel(null)}
        />
      )}
      {!panel && (
        <div className={css.bottom}>
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
            <button type="button" className={css.big} onClick={forward}>
              {done || !next ? "Close the firing" : action(next.kind, say)}
              {going.length > 1 && <span className={css["how-many"]}> {going.length} blades</span>}
            </button>
          )}
          <Others firing={firing} step={step} onUndo={undo} onOpen={setPanel} />
        </div>
      )}
    </div>
  );
}
