import type { Blade } from "../api/client";
import { BladeDrawing, type Frame } from "../drawing/blade-drawing";
import { CLAY_KEY, ClayLayer, clayColour, faceOf } from "../drawing/clay-layer";
import { useUnits } from "../quantity/units";
import type { useBrush } from "./brush";
import css from "./clay.module.css";
import type { Place } from "./line";
import type { Brush } from "./tools";
import type { Painted } from "./use-clay";

function LineOver(props: { frame: Frame; points: Place[]; kind: "seen" | "wanted" }) {
  const at = props.points.flatMap(([x, height]) => {
    const edge = props.frame.heights(x)?.[0];
    if (edge === undefined) return [];
    return [`${props.frame.x(x).toFixed(1)},${props.frame.y(edge + height).toFixed(1)}`];
  });
  return (
    <g className={props.kind}>
      <polyline className={css.halo} points={at.join(" ")} />
      <polyline points={at.join(" ")} />
    </g>
  );
}

interface Props {
  blade: Blade;
  shown: Painted;
  /** The line that the clay gives. */
  line: Place[];
  set: Brush;
  held: ReturnType<typeof useBrush>;
}

/** The blade to paint on, by pointer or by keys, with the line it gives and the one that is wanted. */
export function ClayBoard({ blade, shown, line, set, held }: Props) {
  const { show } = useUnits();
  const { at, drawn, byKeys } = held.brush;
  return (
    <>
      <div
        className={css.board}
        // biome-ignore lint/a11y/noNoninteractiveTabindex: it is drawn on with the keys as well
        tabIndex={0}
        role="application"
        aria-label="The blade to paint on. Arrows move the brush, with Shift further; Space puts it down and lifts it; Escape takes the stroke back."
        onKeyDown={held.onKey}
        onFocus={held.onFocus}
        onBlur={held.onBlur}
      >
        <BladeDrawing
          outline={blade.outline}
          length={blade.length_mm}
          width={blade.width_mm}
          spine={blade.spine_mm}
          edge={blade.edge_mm}
          height={270}
          plain
          onStroke={held.onPointer}
          under={(frame) => (
            <>
              <rect width="100%" height="100%" fill={clayColour(0)} />
              <ClayLayer
                face={faceOf(shown.clay, set.right)}
                frame={frame}
                outline={blade.outline}
                id={set.right ? "right" : "left"}
              />
            </>
          )}
          over={(frame) => (
            <>
              {line.length > 1 && <LineOver frame={frame} points={line} kind="seen" />}
              {shown.wanted.length > 0 && (
                <LineOver frame={frame} points={shown.wanted} kind="wanted" />
              )}
              {byKeys && at && (
                <circle
                  className={`hand${drawn ? ` ${css.down}` : ""}`}
                  cx={frame.x(at[0])}
                  cy={frame.y(at[1])}
                  r={Math.max(4, 0.5 * set.width * frame.scale)}
                />
              )}
            </>
          )}
        />
      </div>
      <div className="visually-hidden" aria-live="polite">
        {byKeys && at
          ? `Brush ${drawn ? "down" : "up"} at ${show("length", at[0])} from the heel, ${show("length", at[1])} up.`
          : ""}
      </div>
    </>
  );
}

/** What the colours and lines of the board mean. */
export function ClayKey({ wanted }: { wanted: boolean }) {
  const { about } = useUnits();
  return (
    <div className={css["clay-key"]}>
      {CLAY_KEY.map((t) => (
        <span key={t}>
          <i style={{ background: clayColour(t) }} /> {about(t)}
        </span>
      ))}
      <span className={css["line-key"]}>
        <i className={css.seen} /> line it gives
      </span>
      {wanted && (
        <span className={css["line-key"]}>
          <i className="wanted" /> line you want
        </span>
      )}
    </div>
  );
}
