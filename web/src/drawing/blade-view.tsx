import { useEffect, useMemo, useState } from "react";
import { Button } from "react-bootstrap";
import { type Blade, type Maps, problemOf, type Step } from "../api/client";
import { RadioRow } from "../fields/radio-row";
import { useMaps } from "../prediction/prediction";
import { useUnits } from "../quantity/units";
import { hrc } from "../words/names";
import { noLine } from "../words/reasons";
import { BendHistory } from "./bend-history";
import { BladeDrawing, type Outline, READ_ALONG } from "./blade-drawing";
import css from "./drawing.module.css";
import { bent, cellAt, hamonColour, hardnessColour, pieces, quenchColour } from "./maps";
import { PlaceThrough } from "./place-history";
import { SectionAcross } from "./section-across";
import { Cells, CrackMark, Curved, Doubt, LineOf, short, spots } from "./view-marks";

const VIEWS = {
  thickness: "Thickness",
  hardness: "Hardness",
  hamon: "Hamon",
  bend: "Bend",
  quench: "Through the quench",
} as const;

type View = keyof typeof VIEWS;

/** Spine and edge where they change along the blade, in words. */
function taperNotes(blade: Blade, about: (mm: number) => string): [string, string] | undefined {
  const { taper } = blade.ready;
  const [heel, end] = [taper[0], taper.at(-1)];
  if (!heel || !end || taper.length < 2) return undefined;
  const from = (a: number, b: number) => `${about(a)} to ${about(b)}`;
  return [from(heel.spine_mm, end.spine_mm), from(heel.edge_mm, end.edge_mm)];
}

/** What a view shows, or what is where the pointer rests, in words. */
function Said(props: {
  view: View;
  maps: Maps;
  shown: Maps["moments"][number] | undefined;
  cell: number | undefined;
}) {
  const { view, maps, shown, cell } = props;
  const { show, about, say } = useUnits();
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
}

/** Goes through the quench moment by moment, by hand or by itself, with the curve of the back under it. */
function Scrubber(props: { maps: Maps; at: number; onMoment: (to: number) => void }) {
  const { maps, at, onMoment } = props;
  const [running, setRunning] = useState(false);
  const last = maps.moments.length - 1;
  const time = maps.moments[at]?.time_s ?? 0;
  useEffect(() => {
    if (!running) return;
    if (at >= last) {
      setRunning(false);
      return;
    }
    const timer = setTimeout(() => onMoment(at + 1), 160);
    return () => clearTimeout(timer);
  }, [running, at, last, onMoment]);
  return (
    <div className={css.scrubber}>
      <Button
        variant="outline-primary"
        onClick={() => {
          if (at >= last) onMoment(0);
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
        aria-valuetext={short(time)}
        onChange={(e) => {
          setRunning(false);
          onMoment(Number(e.target.value));
        }}
      />
      <span className="num">{short(time)}</span>
      <BendHistory maps={maps} at={at} />
    </div>
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
  const { about } = useUnits();
  const [view, setView] = useState<View>("thickness");
  const query = useMaps(blade, steps, view !== "thickness");
  const maps = view === "thickness" ? undefined : query.data;
  const [moment, setMoment] = useState(0);
  const [pointed, setPointed] = useState<[number, number] | null>(null);
  // What was touched last stays, so that its curve can be read.
  const [touched, setTouched] = useState<[number, number] | null>(null);
  const last = (maps?.moments.length ?? 1) - 1;
  const at = Math.min(moment, last);
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
  return (
    <div className={css["blade-view"]}>
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
        <span className={`soft ${css.said}`} aria-live="polite">
          {maps ? (
            <Said view={view} maps={maps} shown={shown} cell={cell} />
          ) : query.error ? (
            problemOf(query.error)
          ) : (
            view !== "thickness" && "…"
          )}
        </span>
      </RadioRow>
      <BladeDrawing
        outline={outline}
        length={blade.length_mm}
        width={blade.width_mm}
        spine={blade.spine_mm}
        edge={blade.edge_mm}
        height={height}
        notes={taperNotes(blade, about)}
        plain={view !== "thickness"}
        onPoint={setPointed}
        onPick={view === "quench" ? setTouched : undefined}
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
                  {(view === "bend" || view === "quench") && (
                    <CrackMark frame={frame} maps={maps} />
                  )}
                  {view === "bend" && <Curved frame={frame} maps={maps} outline={outline} />}
                  {view === "hardness" &&
                    spots(maps, frame, blade.length_mm).map((s) => (
                      <text
                        key={`${s.x} ${s.y}`}
                        className={`${css.spot} num${s.hrc >= 56 ? ` ${css.light}` : ""}`}
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
      {view === "hardness" && maps && (
        <SectionAcross maps={maps} x={pointed?.[0] ?? READ_ALONG * blade.length_mm} />
      )}
      {view === "quench" && maps && <Scrubber maps={maps} at={at} onMoment={setMoment} />}
      {view === "quench" && maps && (
        <PlaceThrough
          blade={blade}
          outline={outline}
          steps={steps}
          pointed={touched}
          now={shown?.time_s ?? 0}
        />
      )}
    </div>
  );
}
