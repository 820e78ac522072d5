import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { v7 as uuid } from "uuid";
import { ApiError, api, type Firing, take } from "../api/client";
import { useBlade } from "../api/queries";
import { stepSentence } from "../drawing/heat-path";
import { axis, type Corner, layout } from "../drawing/path-layout";
import { QuantityInput } from "../quantity/quantity-input";
import { typing, useUnits } from "../quantity/units";
import { useNow } from "../rack/now";
import { STEPS, span } from "../words/names";
import { clock, soundAt, timing } from "./timing";
import { chime, useAwake } from "./wake";

/** The path so far in bright, what is to come dotted. */
function Thread({ firing, step }: { firing: Firing; step: number }) {
  const width = 358;
  const segments = layout(firing.steps, 4, width - 8);
  const hottest = Math.max(
    900,
    ...firing.steps.map((s) => ("temperature_c" in s ? s.temperature_c : 0)),
  );
  const coldest = Math.min(
    0,
    ...firing.steps.map((s) => ("temperature_c" in s ? s.temperature_c : 0)),
  );
  const y = axis(6, 66, hottest, coldest);
  // Each part begins where the one before it ended.
  const points = (from: number, to: number) => {
    const before = segments[from - 1]?.corners.at(-1);
    const start: Corner = before ?? [4, 20];
    return [start, ...segments.slice(from, to).flatMap((s) => s.corners)]
      .map(([x, t]) => `${x.toFixed(1)},${y(t).toFixed(1)}`)
      .join(" ");
  };
  return (
    <svg className="thread" viewBox={`0 0 ${width} 74`} aria-hidden="true">
      <polyline className="past" points={points(0, step)} />
      <polyline className="to-come" points={points(step + 1, segments.length)} />
      <polyline className="here" points={points(step, step + 1)} />
    </svg>
  );
}

const CLOSED = "This firing is closed. What happened is kept as it was.";

/** The forge view: near dark, one big action, a clock that can be read across the room. */
export function FiringPage() {
  const { id = "" } = useParams();
  const client = useQueryClient();
  const navigate = useNavigate();
  const { show } = useUnits();
  const query = useQuery({
    queryKey: ["firing", id],
    queryFn: () => take(api.GET("/api/v1/firings/{id}", { params: { path: { id } } })),
    refetchInterval: 15_000,
  });
  const firing = query.data;
  const blade = useBlade(firing?.blade_id ?? "");
  const now = useNow(250);
  const [saying, setSaying] = useState(false);
  useAwake(!!firing && !firing.closed_at);

  const happen = useMutation({
    mutationFn: (body: {
      kind: string;
      beat?: number;
      step?: number;
      temperature_c?: number;
      lasted_s?: number;
      note?: string;
      id: string;
      at: string;
    }) => take(api.POST("/api/v1/firings/{id}/events", { params: { path: { id } }, body })),
    // The event has its own id, so sending it again after a lost answer changes nothing.
    retry: (count, error) => error instanceof ApiError && error.problem.status === 0 && count < 5,
    onSuccess: (state) => {
      client.setQueryData(["firing", id], state);
      client.invalidateQueries({ queryKey: ["blades"] });
      client.invalidateQueries({ queryKey: ["blade", state.blade_id] });
      client.invalidateQueries({ queryKey: ["firings", state.blade_id] });
      if (state.closed_at) {
        client.invalidateQueries();
        navigate(`/blades/${state.blade_id}/readings`);
      }
    },
  });
  const { mutate, isPending } = happen;
  const stamp = useCallback(() => ({ id: uuid(), at: new Date().toISOString() }), []);

  const position = firing?.state.position ?? 0;
  const beats = firing?.beats ?? [];
  const next = beats[position];
  const last = beats[position - 1];
  const done = firing && position >= beats.length;

  const forward = useCallback(() => {
    if (!firing || firing.closed_at || isPending) return;
    if (position < firing.beats.length) mutate({ ...stamp(), kind: "confirm", beat: position });
    else mutate({ ...stamp(), kind: "close" });
  }, [firing, position, isPending, mutate, stamp]);
  const back = useCallback(() => {
    if (!firing || firing.closed_at || position === 0 || isPending) return;
    mutate({ ...stamp(), kind: "undo", beat: position - 1 });
  }, [firing, position, isPending, mutate, stamp]);

  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (typing(event) || event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.key === " ") {
        event.preventDefault();
        if (!event.repeat) forward();
      } else if (event.key.toLowerCase() === "u") {
        event.stopImmediatePropagation();
        back();
      }
    };
    window.addEventListener("keydown", press, true);
    return () => window.removeEventListener("keydown", press, true);
  }, [forward, back]);

  const since = firing?.state.confirmed_ms.at(-1);
  const t = timing(now, since, last?.lasts_s ?? undefined);
  const rung = useRef<number | null>(null);
  useEffect(() => {
    const due = soundAt(since, last?.lasts_s ?? undefined);
    if (due !== null && now >= due && now < due + 3000 && rung.current !== due) {
      rung.current = due;
      chime();
    }
  }, [now, since, last?.lasts_s]);

  if (query.error) {
    return (
      <div className="lights-out">
        <p>{query.error.message}</p>
        <Link to="/">To the rack</Link>
      </div>
    );
  }
  if (!firing) return <div className="lights-out" />;
  const stepAt = (last ?? next)?.step ?? firing.steps.length - 1;
  const step = firing.steps[stepAt];
  const caution = (next ?? last)?.caution;
  const untempered = firing.state.untempered_since_ms;
  return (
    <div className="lights-out">
      <div className="row-of">
        <b>
          {blade.data?.mark} {blade.data?.name}
        </b>
        <span className="dim">
          step {stepAt + 1} of {firing.steps.length}
        </span>
      </div>
      <div className="row-of dim">
        <span>{blade.data?.steel_name}</span>
        <span>{step ? stepSentence(step, show) : ""}</span>
      </div>
      {!saying && <Thread firing={firing} step={stepAt} />}
      <h1>
        {firing.closed_at
          ? "Closed"
          : done
            ? "All steps are done"
            : (last?.doing ??
              (next ? `${STEPS[firing.steps[next.step]?.kind ?? "quench"]} comes first` : ""))}
      </h1>
      <div className="clock num" role="timer" aria-label={t.spoken}>
        {since ? clock(t.shown) : "0:00"}
      </div>
      <div className="dim centre">
        {t.of}
        {since
          ? ` from ${new Date(since).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" })}`
          : "not begun"}
        {t.over && <b className="over-time"> time is up</b>}
      </div>
      {untempered && (
        <div className="caut strong">
          Hard and untempered for {span((now - untempered) / 1000)}.
        </div>
      )}
      {caution && !firing.closed_at && <div className="caut">{caution}</div>}
      {firing.closed_at ? (
        <div className="caut">{CLOSED}</div>
      ) : (
        <div className="dim">
          {beats[position + 1] ? `Then: ${beats[position + 1]?.action.toLowerCase()}` : ""}
        </div>
      )}
      {happen.error && (
        <div className="caut strong" role="alert">
          {happen.error.message}
        </div>
      )}
      {saying && step && (
        <SayForm
          key={stepAt}
          title={stepSentence(step, show)}
          onCancel={() => setSaying(false)}
          onSay={(said) => {
            mutate({ ...stamp(), kind: "say", step: stepAt, ...said });
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
            <button type="button" className="big" disabled={isPending} onClick={forward}>
              {done ? "Close the firing" : next?.action}
            </button>
          )}
          <div className="alt">
            <button type="button" disabled={position === 0 || !!firing.closed_at} onClick={back}>
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

function SayForm(props: {
  title: string;
  onSay: (said: { temperature_c?: number; lasted_s?: number; note?: string }) => void;
  onCancel: () => void;
}) {
  const [temperature, setTemperature] = useState<number | null>(null);
  const [lasted, setLasted] = useState<number | null>(null);
  const [note, setNote] = useState("");
  const nothing = temperature === null && lasted === null && note.trim() === "";
  return (
    <form
      className="say"
      onSubmit={(e) => {
        e.preventDefault();
        if (nothing) return;
        props.onSay({
          temperature_c: temperature ?? undefined,
          lasted_s: lasted ?? undefined,
          note,
        });
      }}
    >
      <p>Planned: {props.title}. What really was:</p>
      <QuantityInput
        label="Temperature"
        kind="temperature"
        value={temperature}
        range={[-200, 1300]}
        onChange={setTemperature}
      />
      <QuantityInput
        label="Lasted"
        kind="time"
        value={lasted}
        range={[0, 604_800]}
        onChange={setLasted}
      />
      <label className="field wide">
        Remark
        <input
          className="form-control"
          value={note}
          maxLength={500}
          onChange={(e) => setNote(e.target.value)}
        />
      </label>
      <div className="alt">
        <button type="submit" disabled={nothing}>
          Keep it
        </button>
        <button type="button" onClick={props.onCancel}>
          Never mind
        </button>
      </div>
    </form>
  );
}
