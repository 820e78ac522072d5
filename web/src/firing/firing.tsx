import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import type { Firing } from "../api/client";
import { serverNow } from "../api/clock";
import { Boundary } from "../boundary";
import { stepSentence } from "../drawing/heat-path";
import { singleKey } from "../keys";
import { useUnits } from "../quantity/units";
import { useNow } from "../rack/now";
import { action, BEAT_CAUTIONS, doing } from "../words/firing";
import { STEPS, span } from "../words/names";
import { FireStrip } from "./fire-strip";
import { keepHand } from "./hand";
import { useFiring, useInFire } from "./in-fire";
import { journal } from "./journal";
import { useKiln } from "./kiln-line";
import { PlainHttp } from "./plain-http";
import { event, moment, type What } from "./press";
import { rounds, SayForm } from "./say-form";
import { useSignals } from "./signal";
import { Thread } from "./thread";
import { clock, soundAt, timing } from "./timing";
import { lastEvent, lastWith, standingWith } from "./together";
import { Waiting } from "./waiting";
import { useAwake } from "./wake";
import { straightenNow } from "./window";

const CLOSED = "This firing is closed. What happened is kept as it was.";
const TOGETHER = "vatten.together";
/** A stage shorter than this is counted in tenths, s. */
const TENTHS = 20;

/** The forge view: near dark, one big action, a clock that can be read across the room. */
export function FiringPage() {
  const { id = "" } = useParams();
  const { error, firing } = useFiring(id);
  const all = useInFire();
  if (!firing) {
    return (
      <div className="lights-out">
        {error && (
          <>
            <p>{error.message}</p>
            <Link to="/">To the rack</Link>
          </>
        )}
      </div>
    );
  }
  return (
    <Boundary
      of={id}
      instead={(error, again) => <Plain firing={firing} error={error} again={again} />}
    >
      <AtTheFire key={id} firing={firing} all={all} />
    </Boundary>
  );
}

/** What is left of the view when it cannot be drawn: the presses go on and nothing of them is lost. */
function Plain({ firing, error, again }: { firing: Firing; error: Error; again: () => void }) {
  const { say } = useUnits();
  const next = firing.beats[firing.state.position];
  const last = lastEvent(firing);
  const press = (what: What) => journal.add([{ firing: firing.id, body: event(what, moment()) }]);
  return (
    <div className="lights-out">
      <b>
        {firing.mark} {firing.name}
      </b>
      <div className="caut strong" role="alert">
        Part of this view broke ({error.message}). Every press is kept; go on with these.
      </div>
      <Waiting firing={firing} />
      <div className="bottom">
        <button
          type="button"
          className="big"
          disabled={!!firing.closed_at}
          onClick={() =>
            press(next ? { kind: "confirm", beat: firing.state.position } : { kind: "close" })
          }
        >
          {next ? action(next.action, say) : "Close the firing"}
        </button>
        <div className="alt">
          <button
            type="button"
            disabled={!last || !!firing.closed_at}
            onClick={() => press({ kind: "undo", event: last })}
          >
            Undo
          </button>
          <button type="button" onClick={again}>
            Draw the view again
          </button>
          <Link to={`/blades/${firing.blade_id}/fire`}>Leave</Link>
        </div>
      </div>
    </div>
  );
}

function AtTheFire({ firing, all }: { firing: Firing; all: Firing[] }) {
  const navigate = useNavigate();
  const { show, say } = useUnits();
  const tick = useNow(firing.state.position > 0 ? 100 : 250);
  // The tick makes it anew; what is shown is the time of the server.
  const now = useMemo(() => (tick > 0 ? serverNow() : 0), [tick]);
  const [saying, setSaying] = useState(false);
  const [together, setTogether] = useState(() => localStorage.getItem(TOGETHER) === "yes");
  const writing = useRef(false);
  useAwake(!firing.closed_at);

  const { position } = firing.state;
  const { beats } = firing;
  const next = beats[position];
  const last = beats[position - 1];
  const done = position >= beats.length;
  const going = together ? standingWith(firing, all) : [firing];

  const kiln = useKiln(firing, now);
  const back = kiln?.back ?? null;
  const write = useCallback(async (events: { firing: string; what: What }[], then?: number) => {
    // A press that bounces is one press.
    if (writing.current) return;
    writing.current = true;
    try {
      const at = moment(then);
      await journal.add(events.map(({ firing, what }) => ({ firing, body: event(what, at) })));
    } finally {
      writing.current = false;
    }
  }, []);

  const forward = useCallback(async () => {
    if (firing.closed_at) return;
    if (done) {
      await write([{ firing: firing.id, what: { kind: "close" } }]);
      // With the server gone there is nothing to go to yet.
      if (!journal.snapshot().gone) navigate(`/blades/${firing.blade_id}/readings`);
      return;
    }
    await write(
      going.map((f) => ({ firing: f.id, what: { kind: "confirm", beat: f.state.position } })),
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

  const since = firing.state.confirmed_ms.at(-1);
  const lasts = last?.lasts_s ?? undefined;
  const t = timing(now, since, lasts);
  const straighten = straightenNow(firing, now, say);
  const [due, opens, closes] = [soundAt(since, lasts), straighten?.opens, straighten?.closes];
  useSignals(
    now,
    useMemo(() => [due, opens, closes], [due, opens, closes]),
  );

  const stepAt = (last ?? next)?.step ?? firing.steps.length - 1;
  const step = firing.steps[stepAt];
  const caution = (next ?? last)?.caution;
  const after = beats[position + 1];
  const untempered = firing.state.untempered_since_ms;
  const tenths = since !== undefined && lasts !== undefined && lasts < TENTHS && !t.over;
  return (
    <div className="lights-out">
      <div className="row-of">
        <b>
          {firing.mark} {firing.name}
        </b>
        <span className="dim">
          step {stepAt + 1} of {firing.steps.length}
        </span>
      </div>
      <div className="row-of dim">
        <span>
          {firing.steel_name}
          {firing.state.hand && `, ${firing.state.hand} quenches`}
        </span>
        <span>{step ? stepSentence(step, show) : ""}</span>
      </div>
      <Boundary>
        <FireStrip
          front={firing.id}
          all={all}
          now={now}
          together={together}
          with={going.length}
          onTogether={() => {
            localStorage.setItem(TOGETHER, together ? "no" : "yes");
            setTogether(!together);
          }}
        />
      </Boundary>
      {!saying && (
        <Boundary>
          <Thread firing={firing} step={stepAt} />
        </Boundary>
      )}
      <h1>
        {firing.closed_at
          ? "Closed"
          : done
            ? "All steps are done"
            : last
              ? doing(last.doing)
              : next
                ? `${STEPS[firing.steps[next.step]?.kind ?? "quench"]} comes first`
                : ""}
      </h1>
      <div className="clock num" role="timer" aria-label={t.spoken}>
        {since === undefined
          ? "0:00"
          : tenths
            ? ((lasts * 1000 - (now - since)) / 1000).toFixed(1)
            : clock(t.shown)}
      </div>
      <div className="dim centre">
        {t.of}
        {since
          ? ` from ${new Date(since).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" })}`
          : "not begun"}
        {t.over && <b className="over-time"> time is up</b>}
      </div>
      <Waiting firing={firing} />
      {kiln && (
        <div className={kiln.wrong ? "caut strong" : "centre kiln-line"} role="status">
          {kiln.text}
        </div>
      )}
      {straighten && (
        <div className={straighten.left ? "caut strong" : "caut"} role="status">
          {straighten.text}
          {straighten.left !== null && (
            <span className="window-left" aria-hidden="true">
              <span style={{ width: `${100 * straighten.left}%` }} />
            </span>
          )}
        </div>
      )}
      {untempered && (
        <div className="caut strong">
          Hard and untempered for {span((now - untempered) / 1000)}.
        </div>
      )}
      {caution && !firing.closed_at && <div className="caut">{BEAT_CAUTIONS[caution]}</div>}
      {firing.closed_at ? (
        <div className="caut">{CLOSED}</div>
      ) : (
        <div className="dim">
          {after && !straighten ? `Then: ${action(after.action, say).toLowerCase()}` : ""}
        </div>
      )}
      <PlainHttp />
      {saying && step && (
        <SayForm
          key={stepAt}
          title={stepSentence(step, show)}
          rounds={rounds(step)}
          now={last?.step === stepAt ? (last.round ?? 0) : 0}
          every={step.kind === "temper"}
          onCancel={() => setSaying(false)}
          hand={firing.state.hand ?? ""}
          onSay={(said, hand) => {
            const of = (what: What) => ({ firing: firing.id, what });
            if (hand) keepHand(hand);
            write([
              ...(said ? [of({ kind: "say", step: stepAt, ...said })] : []),
              ...(hand ? [of({ kind: "hand", name: hand })] : []),
            ]);
            setSaying(false);
          }}
        />
      )}
      {!saying && (
        <div className="bottom">
          {firing.closed_at ? (
            <Link className="big" to={`/blades/${firing.blade_id}/readings`}>
              To the readings
            </Link>
          ) : (
            <button type="button" className="big" onClick={forward}>
              {done || !next ? "Close the firing" : action(next.action, say)}
              {going.length > 1 && <span className="how-many"> {going.length} blades</span>}
            </button>
          )}
          <div className="alt">
            <button type="button" disabled={position === 0 || !!firing.closed_at} onClick={undo}>
              Undo
            </button>
            <button
              type="button"
              disabled={!!firing.closed_at}
              aria-expanded={saying}
              onClick={() => setSaying(!saying)}
            >
              It went otherwise
            </button>
            <Link to={`/blades/${firing.blade_id}/fire`}>Leave</Link>
          </div>
        </div>
      )}
    </div>
  );
}
