import { useEffect, useMemo, useState } from "react";
import { Button } from "react-bootstrap";
import type { Blade, Maps, Step } from "../api/client";
import { problemOf } from "../api/client";
import { RadioRow } from "../fields/radio-row";
import { useMaps } from "../prediction/prediction";
import { useUnits } from "../quantity/units";
import { hrc } from "../words/names";
import { noLine } from "../words/reasons";
import { BladeDrawing, type Frame, type Outline } from "./blade-drawing";
import {
  bent,
  cellAt,
  hamonColour,
  hardnessColour,
  type Piece,
  pieces,
  quenchColour,
} from "./maps";

const VIEWS = {
  thickness: "Thickness",
  hardness: "Hardness",
  hamon: "Hamon",
  bend: "Bend",
  quench: "Through the quench",
} as const;
type View = keyof typeof VIEWS;

const short = (seconds: number) =>
  seconds < 10 ? `${seconds.toFixed(1)} s` : `${Math.round(seconds)} s`;

/** Cells of the blade in their colours. */
function Cells({ frame, maps, all }: { frame: Frame; maps: Maps; all: Piece[] }) {
  const wide = maps.step_mm * frame.scale + 0.6;
  return (
    <g>
      {all.map((p) => (
        <rect
          key={`${p.x} ${p.low}`}
          x={frame.x(p.x)}
          y={frame.y(p.high)}
          width={wide}
          height={(p.high - p.low) * frame.scale + 0.6}
          fill={p.colour}
        />
      ))}
    </g>
  );
}

/** Places of a line on the drawing: its height, and the ends of where it lies nine times out of ten. */
function along(frame: Frame, maps: Maps) {
  const points = "points" in maps.hamon ? maps.hamon.points : [];
  return points.map((p) => {
    const edge = frame.heights(p.x_mm)?.[0] ?? 0;
    const at = (mm: number) => `${frame.x(p.x_mm).toFixed(1)},${frame.y(edge + mm).toFixed(1)}`;
    return { ...p, edge, at: at(p.height_mm), low: at(p.low_mm), high: at(p.high_mm) };
  });
}

/** Where the line lies nine times out of ten. */
function Doubt({ frame, maps }: { frame: Frame; maps: Maps }) {
  const points = along(frame, maps);
  const ring = [...points.map((p) => p.low), ...points.map((p) => p.high).reverse()];
  return <polygon className="doubt" points={ring.join(" ")} />;
}

/** The line from hard to soft, with its height at three places. */
function LineOf({ frame, maps, blade }: { frame: Frame; maps: Maps; blade: Blade }) {
  const { about } = useUnits();
  const points = along(frame, maps);
  const nearest = (x: number) =>
    [...points].sort((a, b) => Math.abs(a.x_mm - x) - Math.abs(b.x_mm - x))[0];
  return (
    <g className="hamon">
      <polyline points={points.map((p) => p.at).join(" ")} />
      {[0.2, 0.5, 0.8].map((share) => {
        const p = nearest(share * blade.length_mm);
        return (
          p && (
            <text
              key={share}
              className="note"
              x={frame.x(p.x_mm)}
              y={frame.y(p.edge + p.height_mm) - 5}
              textAnchor="middle"
            >
              {about(p.height_mm)}
            </text>
          )
        );
      })}
    </g>
  );
}

/** The blade as it will have bent, drawn larger than life beside the straight one. */
function Curved({ frame, maps, outline }: { frame: Frame; maps: Maps; outline: Outline }) {
  const curve = useMemo(() => bent(maps.curvature), [maps]);
  const most = Math.max(...curve.map((c) => Math.abs(c[1])), 1e-6);
  const times = Math.min(20, Math.max(1, Math.round(5 / most)));
  const off = (x: number) => {
    const i = curve.findIndex((c) => c[0] >= x);
    const [b, a] = [curve[i], curve[i - 1]];
    if (!b) return (curve.at(-1)?.[1] ?? 0) * times;
    if (!a) return b[1] * times;
    return (a[1] + ((b[1] - a[1]) * (x - a[0])) / (b[0] - a[0])) * times;
  };
  const d = outline
    .map(
      ([x = 0, y = 0], i) =>
        `${i === 0 ? "M" : "L"}${frame.x(x).toFixed(1)} ${frame.y(y + off(x)).toFixed(1)}`,
    )
    .join("");
  return (
    <g className="bent">
      <path d={`${d}Z`} />
      <text className="note" x={frame.x(4)} y={14}>
        drawn {times} times as bent
      </text>
    </g>
  );
}

/** A few hardnesses in words and numbers: for the eye and for the ear. */
function spots(maps: Maps, frame: Frame, length: number): { x: number; y: number; hrc: number }[] {
  return [0.15, 0.5, 0.82].flatMap((along) =>
    [0.12, 0.5, 0.88].flatMap((up) => {
      const x = along * length;
      const h = frame.heights(x);
      // Where the blade is too narrow for three, the middle one stands for all.
      if (!h || (up !== 0.5 && (h[1] - h[0]) * frame.scale < 44)) return [];
      const y = h[0] + up * (h[1] - h[0]);
      const cell = cellAt(maps, x, y);
      if (cell === undefined) return [];
      return [{ x, y, hrc: (maps.hardness_tenths[cell] ?? 0) / 10 }];
    }),
  );
}

/** The blade with what the quench makes of it: hardness, hamon, bend, and the quench itself. */
export function BladeView(props: {
  blade: Blade;
  outline: Outline;
  steps: Step[] | undefined;
  height: number;
}) {
  const { blade, outline, steps, height } = props;
  const { show, about, say } = useUnits();
  const [view, setView] = useState<View>("thickness");
  const query = useMaps(blade, steps, view !== "thickness");
  const maps = view === "thickness" ? undefined : query.data;
  const [moment, setMoment] = useState(0);
  const [running, setRunning] = useState(false);
  const [pointed, setPointed] = useState<[number, number] | null>(null);
  const last = (maps?.moments.length ?? 1) - 1;
  const at = Math.min(moment, last);
  useEffect(() => {
    if (!running) return;
    if (at >= last) {
      setRunning(false);
      return;
    }
    const timer = setTimeout(() => setMoment(at + 1), 160);
    return () => clearTimeout(timer);
  }, [running, at, last]);

  const shown = maps?.moments[at];
  const all = useMemo(() => {
    if (!maps) return [];
    if (view === "hardness") {
      return pieces(maps, (c) => hardnessColour((maps.hardness_tenths[c] ?? 0) / 10));
    }
    if (view === "hamon") return pieces(maps, (c) => hamonColour(maps.hardened_percent[c] ?? 0));
    if (view === "quench" && shown) {
      return pieces(maps, (c) =>
        quenchColour(shown.temperature_c[c] ?? 20, shown.martensite_percent[c] ?? 0),
      );
    }
    return [];
  }, [maps, view, shown]);

  const cell = maps && pointed ? cellAt(maps, pointed[0], pointed[1]) : undefined;
  const said = () => {
    if (!maps) return query.error ? problemOf(query.error) : view === "thickness" ? "" : "…";
    if (view === "bend") {
      const most = Math.max(...bent(maps.curvature).map((c) => Math.abs(c[1])), 0);
      return `Off straight by ${about(most)} at most, edge to spine.`;
    }
    if (view === "hamon") {
      return "points" in maps.hamon
        ? `Band ${about(maps.hamon.band_mm)} wide, line alive by ${about(maps.hamon.liveliness)}.`
        : noLine(maps.hamon.none, say);
    }
    if (cell === undefined) {
      if (view === "hardness") return "HRC before tempering. Point at a place.";
      return `${short(shown?.time_s ?? 0)} after it went in. Dark is hard.`;
    }
    if (view === "hardness") {
      return `${hrc((maps.hardness_tenths[cell] ?? 0) / 10)} HRC here, ${maps.hardened_percent[cell]} % hardened.`;
    }
    return `${show("temperature", shown?.temperature_c[cell] ?? 20)} here, ${shown?.martensite_percent[cell] ?? 0} % martensite.`;
  };

  const taper = blade.ready.taper;
  const [heel, end] = [taper[0], taper.at(-1)];
  const notes: [string, string] | undefined =
    heel && end && taper.length > 1
      ? [
          `${about(heel.spine_mm)} to ${about(end.spine_mm)}`,
          `${about(heel.edge_mm)} to ${about(end.edge_mm)}`,
        ]
      : undefined;

  return (
    <div className="blade-view">
      <RadioRow
        label="What the drawing shows"
        name="blade-view"
        options={VIEWS}
        value={view}
        onChange={(v) => {
          setView(v);
          setMoment(0);
        }}
      >
        <span className="soft said" aria-live="polite">
          {said()}
        </span>
      </RadioRow>
      <BladeDrawing
        outline={outline}
        length={blade.length_mm}
        width={blade.width_mm}
        spine={blade.spine_mm}
        edge={blade.edge_mm}
        height={height}
        notes={notes}
        plain={view !== "thickness"}
        onPoint={setPointed}
        under={
          maps && view !== "bend"
            ? (frame) => (
                <>
                  <Cells frame={frame} maps={maps} all={all} />
                  {view === "hamon" && <Doubt frame={frame} maps={maps} />}
                </>
              )
            : undefined
        }
        over={
          maps
            ? (frame) => (
                <>
                  {view === "hamon" && "points" in maps.hamon && (
                    <LineOf frame={frame} maps={maps} blade={blade} />
                  )}
                  {view === "bend" && <Curved frame={frame} maps={maps} outline={outline} />}
                  {view === "hardness" &&
                    spots(maps, frame, blade.length_mm).map((s) => (
                      <text
                        key={`${s.x} ${s.y}`}
                        className={`spot num${s.hrc >= 56 ? " light" : ""}`}
                        x={frame.x(s.x)}
                        y={frame.y(s.y) + 4}
                        textAnchor="middle"
                      >
                        {Math.round(s.hrc)}
                      </text>
                    ))}
                </>
              )
            : undefined
        }
      />
      {view === "quench" && maps && (
        <div className="scrubber">
          <Button
            variant="outline-primary"
            onClick={() => {
              if (at >= last) setMoment(0);
              setRunning(!running);
            }}
          >
            {running ? "Hold" : at >= last ? "Again" : "Run it"}
          </Button>
          <input
            type="range"
            min={0}
            max={last}
            value={at}
            aria-label="Time since it went in"
            aria-valuetext={short(shown?.time_s ?? 0)}
            onChange={(e) => {
              setRunning(false);
              setMoment(Number(e.target.value));
            }}
          />
          <span className="num">{short(shown?.time_s ?? 0)}</span>
        </div>
      )}
    </div>
  );
}
