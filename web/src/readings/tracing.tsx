import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { v7 as uuid } from "uuid";
import { ApiError, api, type Blade, type Photo, take } from "../api/client";
import { changed } from "../api/live";
import { heights } from "../drawing/blade-drawing";
import { Choice } from "../fields/choice";
import { INCH } from "../quantity/parse";
import { useUnits } from "../quantity/units";
import css from "./readings.module.css";

type Dot = [number, number];

const GRADES = { "": "not graded", "1": "1, hardly", "2": "2", "3": "3", "4": "4", "5": "5, very" };

export const pictureOf = (blade: string, photo: Photo) =>
  `/api/v1/blades/${blade}/photos/${photo.id}/picture`;

/** What the next press in the picture means. */
export function asking(points: Dot[], line: Dot[]): string {
  if (points.length === 0) return "Point at the heel, where the edge begins.";
  if (points.length === 1) return "Now point at the tip.";
  if (line.length === 0) return "Now follow the line from heel to tip, place by place.";
  return `${line.length} places on the line. The more, the better it runs.`;
}

/** Tracing the hamon on a photograph: two known points, then the line. */
export function Tracing({
  blade,
  photo,
  onDone,
}: {
  blade: Blade;
  photo: Photo;
  onDone: () => void;
}) {
  const client = useQueryClient();
  const { units } = useUnits();
  const before = photo.scale ?? undefined;
  const [points, setPoints] = useState<Dot[]>(() => (before?.dots ?? []) as Dot[]);
  const [line, setLine] = useState<Dot[]>([]);
  const [otherFace, setOtherFace] = useState(before?.other_face ?? false);
  const [tip, setTip] = useState(() => {
    const [low, high] = heights(blade.outline, blade.length_mm - 0.1) ?? [0, 0];
    return (low + high) / 2;
  });
  // Where the edge begins, wherever that is on this outline.
  const heel = heights(blade.outline, 0.1)?.[0] ?? 0;
  const [clarity, setClarity] = useState("");
  const [liveliness, setLiveliness] = useState("");
  const grade = (text: string) => (text === "" ? undefined : Number(text));
  const keep = useMutation({
    mutationFn: () => {
      const [a = [0, 0], b = [0, 0]] = points;
      return take(
        api.POST("/api/v1/blades/{id}/photos/{photo}/line", {
          params: { path: { id: blade.id, photo: photo.id } },
          body: {
            id: uuid(),
            line,
            clarity: grade(clarity),
            liveliness: grade(liveliness),
            scale: {
              dots: [a, b],
              mm: [
                [0, heel],
                [blade.length_mm, tip],
              ],
              other_face: otherFace,
            },
          },
        }),
      );
    },
    onSuccess: () => {
      changed(client, "finding", "", blade.id);
      onDone();
    },
  });
  const [cross, setCross] = useState<Dot | null>(null);
  const put = (dot: Dot) => {
    keep.reset();
    if (points.length < 2) setPoints([...points, dot]);
    else setLine([...line, dot]);
  };
  const press = (e: React.MouseEvent<SVGSVGElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    put([
      ((e.clientX - box.left) / box.width) * photo.width,
      ((e.clientY - box.top) / box.height) * photo.height,
    ]);
  };
  // A cross is walked with the arrow keys, with Shift in small steps, and put down with Enter.
  const walk = (e: React.KeyboardEvent) => {
    const step = photo.width / (e.shiftKey ? 600 : 80);
    const [x, y] = cross ?? [photo.width / 2, photo.height / 2];
    const to: Record<string, Dot> = {
      ArrowLeft: [x - step, y],
      ArrowRight: [x + step, y],
      ArrowUp: [x, y - step],
      ArrowDown: [x, y + step],
    };
    const next = to[e.key];
    if (next) {
      setCross([
        Math.min(Math.max(next[0], 0), photo.width),
        Math.min(Math.max(next[1], 0), photo.height),
      ]);
    } else if (e.key === "Enter" && cross) put(cross);
    else return;
    e.preventDefault();
  };
  const back = () => {
    if (line.length > 0) setLine(line.slice(0, -1));
    else setPoints(points.slice(0, -1));
  };
  const problem = keep.error instanceof ApiError ? keep.error : null;
  const r = photo.width / 180;
  const per = units.length === "in" ? INCH : 1;
  return (
    <div className={css.tracing}>
      <div className={css.picture}>
        <svg
          viewBox={`0 0 ${photo.width} ${photo.height}`}
          onClick={press}
          onKeyDown={walk}
          // biome-ignore lint/a11y/noNoninteractiveTabindex: it is walked with the arrow keys
          tabIndex={0}
          role="application"
          aria-label={`Photograph. ${asking(points, line)} Arrow keys walk, Enter puts down.`}
        >
          <image href={pictureOf(blade.id, photo)} width={photo.width} height={photo.height} />
          <polyline points={line.map((p) => p.join(",")).join(" ")} strokeWidth={r / 2} />
          {points.map((p, i) => (
            <circle key={i === 0 ? "heel" : "tip"} cx={p[0]} cy={p[1]} r={r} strokeWidth={r / 3} />
          ))}
          {cross && (
            <path
              className={css.cross}
              strokeWidth={r / 3}
              d={`M${cross[0] - 2 * r} ${cross[1]}h${4 * r}M${cross[0]} ${cross[1] - 2 * r}v${4 * r}`}
            />
          )}
          {line.map((p) => (
            <circle key={p.join(" ")} className={css["on-line"]} cx={p[0]} cy={p[1]} r={r / 2} />
          ))}
        </svg>
      </div>
      <div className="row-of">
        <b role="status">{asking(points, line)}</b>
        <Button variant="link" disabled={points.length + line.length === 0} onClick={back}>
          Take the last one back
        </Button>
      </div>
      <div className="grid">
        <Form.Group controlId="tip-height" className="field">
          <Form.Label>Tip above the level of the heel, {units.length}</Form.Label>
          <Form.Control
            className="num"
            type="number"
            step="any"
            value={Number((tip / per).toFixed(2))}
            onChange={(e) => setTip(Number(e.target.value) * per)}
          />
        </Form.Group>
        <Choice label="Clear" value={clarity} options={GRADES} onChange={setClarity} />
        <Choice label="Lively" value={liveliness} options={GRADES} onChange={setLiveliness} />
        <Form.Check
          id="other-face"
          label="The tip points left: it is the other face"
          checked={otherFace}
          onChange={(e) => setOtherFace(e.target.checked)}
        />
        <div className="wide row-of">
          <Button disabled={line.length < 2 || keep.isPending} onClick={() => keep.mutate()}>
            Keep the line
          </Button>
          <Button variant="link" onClick={onDone}>
            Leave it
          </Button>
          {keep.error && (
            <span className="wrong" role="alert">
              {Object.values(problem?.fields ?? {})[0] ?? keep.error.message}
            </span>
          )}
        </div>
      </div>
    </div>
  );
}
