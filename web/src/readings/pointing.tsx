import { useState } from "react";
import type { Blade, FindingRow, Reading } from "../api/client";
import { BladeDrawing, heights } from "../drawing/blade-drawing";
import { RadioRow } from "../fields/radio-row";
import { useUnits } from "../quantity/units";
import type { Kind } from "./finding-kinds";
import { Marks } from "./marks";
import { readPlaces, writePlace } from "./places";
import css from "./readings.module.css";

/** What a press on the drawing is. */
const POINTING = {
  reading: "Point: where it was read",
  line: "where the hamon runs",
  burn: "where it was burned",
};
type Pointing = keyof typeof POINTING;

/** What pointing at the blade writes down: the place of a reading, or of a finding. */
export function usePointing(blade: Blade, onReading: (place: string) => void) {
  const { units } = useUnits();
  const [kind, setKind] = useState<Kind>("line");
  const [pointed, setPointed] = useState("");
  const [pointing, setPointing] = useState<Pointing>("reading");
  const point = (at: [number, number]) => {
    if (pointing === "reading") onReading(writePlace(at, units));
    else if (pointing === "burn") setPointed(writePlace(at, units));
    else {
      // A line is told by its height above the edge, wherever the edge runs.
      const edge = heights(blade.outline, at[0])?.[0] ?? 0;
      setPointed(`${pointed} ${writePlace([at[0], at[1] - edge], units)}`.trim());
    }
  };
  const choose = (to: Pointing) => {
    setPointing(to);
    setPointed("");
    if (to !== "reading") setKind(to);
  };
  return { kind, setKind, pointed, clear: () => setPointed(""), pointing, point, choose };
}

/** The blade with what was read and found on it, to point at. */
export function PointedBlade(props: {
  blade: Blade;
  readings: Reading[];
  findings: FindingRow[];
  pointing: ReturnType<typeof usePointing>;
  /** Places of the readings that are being written. */
  where: string;
}) {
  const { blade, readings, findings, where } = props;
  const { units } = useUnits();
  const { pointing, pointed, choose, point } = props.pointing;
  const quenched = blade.firing_state?.quenched;
  const pending = pointing === "reading" ? where : pointed;
  return (
    <div className={css["over-both"]}>
      {quenched && (
        <RadioRow
          label="What pointing at the blade writes down"
          name="pointing"
          options={POINTING}
          value={pointing}
          onChange={choose}
        />
      )}
      <BladeDrawing
        outline={blade.outline}
        length={blade.length_mm}
        width={blade.width_mm}
        spine={blade.spine_mm}
        edge={blade.edge_mm}
        height={190}
        plain
        under={(frame) => (
          <rect x={0} y={0} width="100%" height="100%" className="bare" data-scale={frame.scale} />
        )}
        over={(frame) => (
          <Marks
            frame={frame}
            outline={blade.outline}
            readings={readings}
            findings={findings}
            pending={readPlaces(pending, units) ?? []}
            above={pointing === "line"}
          />
        )}
        onStroke={quenched ? (what, at) => what === "down" && point(at) : undefined}
      />
    </div>
  );
}
