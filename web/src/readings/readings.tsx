import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { Link } from "react-router";
import { v7 as uuid } from "uuid";
import { ApiError, api, type Blade, type Plan, type TesterValue, take } from "../api/client";
import { changed } from "../api/live";
import {
  useFindings,
  useFirings,
  useReadings,
  useSays,
  useStations,
  useTesterValues,
} from "../api/queries";
import { BladeDrawing, heights, readingHeight } from "../drawing/blade-drawing";
import { Choice } from "../fields/choice";
import { RadioRow } from "../fields/radio-row";
import { Text } from "../fields/text";
import { Outcomes } from "../prediction/outcomes";
import { usePrediction } from "../prediction/prediction";
import { useUnits } from "../quantity/units";
import { hrc } from "../words/names";
import { Diagnosis } from "./diagnosis";
import type { Kind } from "./finding-kinds";
import { Findings, lineHeights } from "./findings";
import { Marks } from "./marks";
import { Photos } from "./photos";
import { type Place, readPlaces, writePlace } from "./places";
import { ReadList } from "./read-list";

export const STAGES: Record<string, string> = {
  tempered: "after the last temper",
  as_quenched: "after the quench, untempered",
};

/** What a press on the drawing is. */
const POINTING = {
  reading: "Point: where it was read",
  line: "where the hamon runs",
  burn: "where it was burned",
};
type Pointing = keyof typeof POINTING;

/** Reads values separated by spaces, commas before a space, semicolons or slashes. */
export function readValues(text: string): { values: number[]; wrong: string | null } {
  const words = text
    .trim()
    .split(/[\s;/]+|,\s+/)
    .filter(Boolean);
  const values = words.map((w) => Number(w.replace(",", ".")));
  const bad = words.find((_, i) => !Number.isFinite(values[i]));
  if (words.length === 0)
    return { values: [], wrong: "At least one reading is needed; three or more are better." };
  if (bad) return { values: [], wrong: `“${bad}” is no number. Write them like 61.5 62 61.` };
  const out = values.find((v) => v < 0 || v > 70);
  if (out !== undefined)
    return { values: [], wrong: `${out} HRC is not possible. Allowed: 0 to 70 HRC.` };
  return { values, wrong: null };
}

/** Values of a connected tester that wait: each is taken into these readings by hand, or put aside. */
function FromTester(props: {
  tester: string;
  taken: string[];
  onTake: (value: TesterValue) => void;
}) {
  const client = useQueryClient();
  const waiting = useTesterValues();
  const aside = useMutation({
    mutationFn: (ids: string[]) => take(api.POST("/api/v1/testers/aside", { body: { ids } })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["tester-values"] }),
  });
  const mine = (waiting.data ?? []).filter(
    (v) => v.station_id === props.tester && !props.taken.includes(v.id),
  );
  if (mine.length === 0) return null;
  return (
    <div className="wide from-tester" role="status">
      <p className="soft">
        The tester sent these. Take those that are of this blade, put the others aside.
      </p>
      <ul>
        {mine.map((v) => (
          <li key={v.id}>
            <b className="num">{hrc(v.value_hrc)}</b>{" "}
            <span className="soft">
              {new Date(v.at).toLocaleString("en-GB", { dateStyle: "short", timeStyle: "medium" })}
            </span>{" "}
            <Button size="sm" variant="outline-primary" onClick={() => props.onTake(v)}>
              Take it
            </Button>{" "}
            <Button size="sm" variant="link" onClick={() => aside.mutate([v.id])}>
              Put it aside
            </Button>
          </li>
        ))}
      </ul>
      {mine.length > 3 && (
        <Button variant="link" onClick={() => aside.mutate(mine.map((v) => v.id))}>
          Put all {mine.length} aside
        </Button>
      )}
      {aside.error && (
        <span className="wrong" role="alert">
          {aside.error.message}
        </span>
      )}
    </div>
  );
}

/** What was read, beside what was predicted. */
export function ReadingsTab({ blade, plan }: { blade: Blade; plan?: Plan }) {
  const client = useQueryClient();
  const stations = useStations();
  const readings = useReadings(blade.id);
  const firings = useFirings(blade.id);
  const predicted = usePrediction(blade, plan?.steps);
  const testers = (stations.data ?? []).filter((s) => s.kind === "tester");
  const state = blade.firing_state;
  const [stage, setStage] = useState(state?.tempered ? "tempered" : "as_quenched");
  const [tester, setTester] = useState<string | null>(null);
  const [text, setText] = useState("");
  const [where, setWhere] = useState("");
  const [warm, setWarm] = useState(false);
  const [skinOn, setSkinOn] = useState(false);
  const [note, setNote] = useState("");
  const [wrong, setWrong] = useState<string | null>(null);
  const [kind, setKind] = useState<Kind>("line");
  const [pointed, setPointed] = useState("");
  const [pointing, setPointing] = useState<Pointing>("reading");
  const [fromTester, setFromTester] = useState<string[]>([]);
  const { units } = useUnits();
  const only = testers.length === 1 ? testers[0]?.id : undefined;
  const chosen = tester ?? only ?? "";
  const keep = useMutation({
    mutationFn: ({ values, places }: { values: number[]; places: Place[] }) =>
      take(
        api.POST("/api/v1/blades/{id}/readings", {
          params: { path: { id: blade.id } },
          body: {
            id: uuid(),
            stage,
            values,
            note,
            tester_id: chosen || undefined,
            from_tester: fromTester,
            taken: {
              places: places.map(([x, y]) => [x, y ?? readingHeight(blade.outline, x)]),
              warm,
              skin_on: skinOn,
              aside: [],
            },
          },
        }),
      ),
    onSuccess: () => {
      setText("");
      setWhere("");
      setNote("");
      setFromTester([]);
      changed(client, "reading", "", blade.id);
    },
  });
  const withdraw = useMutation({
    mutationFn: (reading: string) =>
      take(
        api.DELETE("/api/v1/blades/{id}/readings/{reading}", {
          params: { path: { id: blade.id, reading } },
        }),
      ),
    onSuccess: () => changed(client, "reading", "", blade.id),
  });
  const finish = useMutation({
    mutationFn: () =>
      take(
        api.PATCH("/api/v1/blades/{id}", {
          params: { path: { id: blade.id } },
          body: { finished: !blade.finished_at, version: blade.version },
        }),
      ),
    onSuccess: () => changed(client, "blade", blade.id),
  });
  const says = useSays();
  const connected = says.data?.some((s) => s.station_id === chosen);
  const pending = readPlaces(where, units) ?? [];
  const point = (at: [number, number]) => {
    if (pointing === "reading") setWhere(`${where} ${writePlace(at, units)}`.trim());
    else if (pointing === "burn") setPointed(writePlace(at, units));
    else {
      // A line is told by its height above the edge, wherever the edge runs.
      const edge = heights(blade.outline, at[0])?.[0] ?? 0;
      setPointed(`${pointed} ${writePlace([at[0], at[1] - edge], units)}`.trim());
    }
  };
  const choosePointing = (to: Pointing) => {
    setPointing(to);
    setPointed("");
    if (to !== "reading") setKind(to);
  };
  const problem = keep.error instanceof ApiError ? keep.error : null;
  const fieldError = Object.entries(problem?.fields ?? {}).find(([f]) =>
    /^(values|taken)/.test(f),
  )?.[1];
  const frozen = firings.data?.[0]?.prediction;
  const findings = useFindings(blade.id);
  const all = readings.data ?? [];
  const names = new Map((stations.data ?? []).map((s) => [s.id, s.name]));
  return (
    <div className="low readings">
      <div className="over-both">
        {state?.quenched && (
          <RadioRow
            label="What pointing at the blade writes down"
            name="pointing"
            options={POINTING}
            value={pointing}
            onChange={choosePointing}
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
            <rect
              x={0}
              y={0}
              width="100%"
              height="100%"
              className="bare"
              data-scale={frame.scale}
            />
          )}
          over={(frame) => (
            <Marks
              frame={frame}
              outline={blade.outline}
              readings={all}
              findings={findings.data ?? []}
              pending={pointing === "reading" ? pending : (readPlaces(pointed, units) ?? [])}
              above={pointing === "line"}
            />
          )}
          onStroke={state?.quenched ? (what, at) => what === "down" && point(at) : undefined}
        />
      </div>
      <div>
        {state?.quenched ? (
          <form
            className="grid"
            onSubmit={(e) => {
              e.preventDefault();
              const read = readValues(text);
              const places = readPlaces(where, units);
              const few =
                places && places.length > 0 && places.length !== read.values.length
                  ? `${read.values.length} values, ${places.length} places: one for each, or none.`
                  : null;
              const odd = places ? few : "Places are written like 40 60/12, from the heel.";
              setWrong(read.wrong ?? odd);
              if (!read.wrong && !odd) keep.mutate({ values: read.values, places: places ?? [] });
            }}
          >
            <Choice label="Read" value={stage} options={STAGES} onChange={setStage} />
            {testers.length > 0 ? (
              <Choice
                label="With"
                value={chosen}
                placeholder="a tester not named"
                options={Object.fromEntries(testers.map((t) => [t.id, t.name]))}
                onChange={setTester}
              />
            ) : (
              <p className="soft field">
                Name your tester among the <Link to="/stations">Stations</Link> and its error is
                learned.
              </p>
            )}
            <FromTester
              tester={chosen}
              taken={fromTester}
              onTake={(v) => {
                setFromTester([...fromTester, v.id]);
                setText(`${text} ${v.value_hrc.toFixed(1)}`.trim());
              }}
            />
            <Form.Group controlId="readings" className="field wide">
              <Form.Label>Readings, HRC, three or more</Form.Label>
              <Form.Control
                className="num big-number"
                inputMode="decimal"
                autoComplete="off"
                value={text}
                isInvalid={!!(wrong ?? fieldError)}
                aria-describedby="readings-help"
                onChange={(e) => {
                  setText(e.target.value);
                  setWrong(null);
                }}
              />
              <div id="readings-help" className={wrong || fieldError ? "wrong" : "soft"}>
                {wrong ??
                  fieldError ??
                  (connected
                    ? "The tester is connected: each test waits above, to be taken or put aside."
                    : "Cold, and with the decarburized skin taken off. Write them like 61.5 62 61.")}
              </div>
            </Form.Group>
            <Form.Group controlId="where" className="field wide">
              <Form.Label>
                Where, {units.length} from the heel / above the edge: point at the drawing, or write
              </Form.Label>
              <Form.Control
                className="num"
                autoComplete="off"
                value={where}
                onChange={(e) => {
                  setWhere(e.target.value);
                  setWrong(null);
                }}
              />
            </Form.Group>
            <div className="wide row-of states">
              <Form.Check
                id="warm"
                label="Still warm"
                checked={warm}
                onChange={(e) => setWarm(e.target.checked)}
              />
              <Form.Check
                id="skin-on"
                label="Skin still on"
                checked={skinOn}
                onChange={(e) => setSkinOn(e.target.checked)}
              />
              {(warm || skinOn) && (
                <span className="soft">Kept and shown, but not learned from: it reads low.</span>
              )}
            </div>
            <div className="wide">
              <Text label="Note on it" max={500} value={note} onChange={setNote} />
            </div>
            <div className="wide row-of">
              <Button type="submit" disabled={keep.isPending}>
                Keep readings
              </Button>
              {keep.isSuccess && text === "" && (
                <span className="soft" role="status">
                  Kept. The next prediction has learned from it.
                </span>
              )}
            </div>
          </form>
        ) : (
          <p>
            This blade was not quenched yet, so there is nothing to read.{" "}
            <Link to={`/blades/${blade.id}/fire`}>Fire it first</Link>.
          </p>
        )}
        {problem && !fieldError && (
          <div className="notice" role="alert">
            Not kept: {problem.message} What you typed is still here.
          </div>
        )}
        <ReadList
          blade={blade.id}
          readings={all}
          stages={STAGES}
          testers={names}
          onWithdraw={(id) => withdraw.mutate(id)}
        />
        {(state?.quenched || blade.firing_id) && (
          <Findings
            blade={blade}
            kind={kind}
            onKind={setKind}
            pointed={pointed}
            onKept={() => setPointed("")}
          />
        )}
        <Photos blade={blade} />
        {state?.quenched && plan && <Diagnosis blade={blade} plan={plan} />}
        {state?.tempered && !blade.firing_open && (
          <p>
            <Button variant="outline-primary" onClick={() => finish.mutate()}>
              {blade.finished_at ? "Back on the rack" : "Finished: off the rack"}
            </Button>
          </p>
        )}
      </div>
      <div className="beside">
        <p className="soft">
          {frozen ? "Predicted when the plan was frozen; the diamonds are what was read." : ""}
        </p>
        <Outcomes
          prediction={frozen ?? predicted.data}
          wanted={[blade.target_low_hrc, blade.target_high_hrc]}
          readings={all}
          lines={lineHeights(findings.data ?? [])}
        />
      </div>
    </div>
  );
}
