import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { v7 as uuid } from "uuid";
import { ApiError, api, type Bar, type Layer, problemOf, take } from "../api/client";
import { queries, useBars, useSteels } from "../api/queries";
import { Choice } from "../fields/choice";
import { Text } from "../fields/text";
import { QuantityInput } from "../quantity/quantity-input";
import { useUnits } from "../quantity/units";
import { MEDIA } from "../words/names";
import { conflict } from "../words/steels";
import { SteelPlaces } from "./places";
import { useSteelOptions } from "./steel-options";
import { ELEMENTS, readAnalysis } from "./steels";

export const CONDITIONS: Record<Bar["condition"], string> = {
  unknown: "not known",
  hot_rolled: "hot rolled",
  normalized: "normalized",
  annealed: "annealed",
  spheroidized: "spheroidized",
  forged: "forged here",
};

export const ROLES: Record<Layer["role"], string> = {
  edge: "edge: it cuts",
  core: "core: hardens with it",
  cladding: "cladding: may stay soft",
};

interface Written {
  id: string;
  version: number;
  name: string;
  steel: string;
  layers: Layer[];
  size: Bar["size"];
  condition: Bar["condition"];
  analysis: Record<string, string>;
  note: string;
}

const EMPTY: Omit<Written, "id"> = {
  version: 0,
  name: "",
  steel: "1084",
  layers: [],
  size: { width_mm: 40, thickness_mm: 5, length_mm: 1000, left_mm: 1000 },
  condition: "unknown",
  analysis: {},
  note: "",
};

const written = (b: Bar): Written => ({
  ...b,
  analysis: Object.fromEntries(
    Object.entries(b.analysis ?? {})
      .filter(([, v]) => v > 0)
      .map(([k, v]) => [k, String(v)]),
  ),
});

/** Where the layers of a bar meet, or why they do not. */
function Meeting({ layers }: { layers: Layer[] }) {
  const { show, say } = useUnits();
  const met = useQuery({
    ...queries.meeting(layers),
    enabled: layers.length > 1,
  });
  if (layers.length < 2) return null;
  if (met.error) return <p className="wrong">{problemOf(met.error)}</p>;
  const m = met.data;
  if (!m) return null;
  const [low, high] = m.austenitize_c ?? [];
  return (
    <div className="meeting" role="status">
      <p>
        <b>{m.conflicts.length === 0 ? "✓ " : "✗ "}</b>
        {low !== undefined && high !== undefined
          ? `Together they are austenitized from ${show("temperature", low)} to ${show("temperature", high)}`
          : "Their windows do not meet"}
        {m.media.length > 0 && `, quenched in ${m.media.map((x) => MEDIA[x]).join(" or ")}`}.
      </p>
      {m.conflicts.map((c) => (
        <p key={conflict(c, say)} className="caution">
          {conflict(c, say)}
        </p>
      ))}
    </div>
  );
}

function BarForm({ first, onDone }: { first: Written; onDone: () => void }) {
  const client = useQueryClient();
  const steels = useSteelOptions();
  const [now, setNow] = useState(first);
  const [wrong, setWrong] = useState<Record<string, string>>({});
  const set = (part: Partial<Written>) => setNow({ ...now, ...part });
  const size = (part: Partial<Bar["size"]>) => set({ size: { ...now.size, ...part } });
  const save = useMutation({
    mutationFn: (w: Written) => {
      const read = Object.values(w.analysis).some((v) => v.trim() !== "")
        ? readAnalysis(w.analysis)
        : null;
      setWrong(read?.errors ?? {});
      if (read && Object.keys(read.errors).length > 0) {
        return Promise.reject(new Error("The analysis needs another look."));
      }
      const body = {
        name: w.name,
        steel: w.layers.length > 0 ? undefined : w.steel,
        layers: w.layers,
        size: w.size,
        condition: w.condition,
        analysis: read?.analysis,
        note: w.note,
      };
      return w.version === 0
        ? take(api.POST("/api/v1/bars", { body: { id: w.id, ...body } }))
        : take(
            api.PUT("/api/v1/bars/{id}", {
              params: { path: { id: w.id } },
              body: { ...body, version: w.version },
            }),
          );
    },
    onSuccess: () => {
      client.invalidateQueries({ queryKey: queries.bars.queryKey });
      client.invalidateQueries({ queryKey: ["predict"] });
      onDone();
    },
  });
  const problem = save.error instanceof ApiError ? save.error : null;
  const fields = problem?.fields ?? {};
  const theirs =
    problem?.problem.status === 409 ? (problem.problem.current as unknown as Bar) : null;
  const setLayer = (i: number, part: Partial<Layer>) =>
    set({ layers: now.layers.map((l, k) => (k === i ? { ...l, ...part } : l)) });
  return (
    <form
      className="bar-form"
      aria-label={first.version === 0 ? "New bar" : `Bar ${first.name}`}
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate(now);
      }}
    >
      <div className="grid">
        <Text
          label="Bar"
          max={60}
          value={now.name}
          error={fields.name}
          onChange={(name) => set({ name })}
        />
        {now.layers.length === 0 && (
          <Choice
            label="Steel"
            value={now.steel}
            options={steels}
            error={fields.steel}
            onChange={(steel) => set({ steel })}
          />
        )}
        <Choice
          label="It came"
          value={now.condition}
          options={CONDITIONS}
          onChange={(c) => set({ condition: c as Bar["condition"] })}
        />
        <QuantityInput
          label="Width"
          kind="length"
          value={now.size.width_mm}
          range={[3, 500]}
          error={fields["size.width_mm"]}
          onChange={(width_mm) => size({ width_mm })}
        />
        <QuantityInput
          label="Thickness"
          kind="length"
          value={now.size.thickness_mm}
          range={[0.5, 60]}
          error={fields["size.thickness_mm"]}
          onChange={(thickness_mm) => size({ thickness_mm })}
        />
        <QuantityInput
          label="Length"
          kind="length"
          value={now.size.length_mm}
          range={[10, 10_000]}
          error={fields["size.length_mm"]}
          onChange={(length_mm) =>
            size(
              now.version === 0
                ? { length_mm, left_mm: length_mm }
                : { length_mm, left_mm: Math.min(now.size.left_mm, length_mm) },
            )
          }
        />
        <QuantityInput
          label="Left of it"
          kind="length"
          value={now.size.left_mm}
          range={[0, 10_000]}
          error={fields["size.left_mm"]}
          onChange={(left_mm) => size({ left_mm })}
        />
        <Text
          label="Remark"
          max={500}
          value={now.note}
          error={fields.note}
          onChange={(note) => set({ note })}
        />
      </div>
      <fieldset>
        <legend className="small-head">Layers</legend>
        {now.layers.map((layer, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: layers have no identity but their order
          <div className="tool-row" key={i}>
            <Form.Select
              aria-label={`Role of layer ${i + 1}`}
              value={layer.role}
              onChange={(e) => setLayer(i, { role: e.target.value as Layer["role"] })}
            >
              {Object.entries(ROLES).map(([id, name]) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </Form.Select>
            <Form.Select
              aria-label={`Steel of layer ${i + 1}`}
              value={layer.steel}
              onChange={(e) => setLayer(i, { steel: e.target.value })}
            >
              {Object.entries(steels).map(([id, name]) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </Form.Select>
            <Button
              variant="link"
              onClick={() => set({ layers: now.layers.filter((_, k) => k !== i) })}
            >
              Remove
            </Button>
            {fields[`layers[${i}].steel`] && (
              <span className="wrong">{fields[`layers[${i}].steel`]}</span>
            )}
          </div>
        ))}
        <Button
          variant="link"
          disabled={now.layers.length >= 6}
          onClick={() =>
            set({
              layers:
                now.layers.length === 0
                  ? [
                      { role: "edge", steel: now.steel },
                      { role: "cladding", steel: "1018" },
                    ]
                  : [...now.layers, { role: "core", steel: now.steel }],
            })
          }
        >
          {now.layers.length === 0 ? "It is made of several steels" : "Add a layer"}
        </Button>
        {fields.layers && <p className="wrong">{fields.layers}</p>}
        <Meeting layers={now.layers} />
      </fieldset>
      <fieldset className="mill">
        <legend className="small-head">The mill's own analysis, where there is one</legend>
        {ELEMENTS.map(([symbol]) => (
          <Form.Group key={symbol} controlId={`mill-${symbol}`} className="field element">
            <Form.Label>{symbol} %</Form.Label>
            <Form.Control
              className="num"
              inputMode="decimal"
              value={now.analysis[symbol] ?? ""}
              isInvalid={!!(wrong[symbol] ?? fields[`analysis.${symbol}`])}
              onChange={(e) => set({ analysis: { ...now.analysis, [symbol]: e.target.value } })}
            />
            <div className="wrong">{wrong[symbol] ?? fields[`analysis.${symbol}`]}</div>
          </Form.Group>
        ))}
      </fieldset>
      {theirs && (
        <div className="notice" role="alert">
          <span>Someone changed this bar meanwhile. What you typed is still here.</span>
          <Button onClick={() => save.mutate({ ...now, version: theirs.version })}>
            Keep mine
          </Button>
          <Button variant="link" onClick={() => setNow(written(theirs))}>
            Take theirs
          </Button>
        </div>
      )}
      {save.error && !theirs && Object.keys(fields).length === 0 && (
        <p className="wrong">{problemOf(save.error)}</p>
      )}
      <div className="row-of">
        <Button type="submit" disabled={save.isPending}>
          {first.version === 0 ? "Bring it into stock" : "Save bar"}
        </Button>
        <Button variant="link" onClick={onDone}>
          Not now
        </Button>
      </div>
    </form>
  );
}

/** The bars in stock. */
export function BarsPage() {
  const { show } = useUnits();
  const bars = useBars();
  const steels = useSteels();
  const [open, setOpen] = useState<Written | null>(null);
  const nameOf = (key: string) => steels.data?.find((s) => s.key === key)?.name ?? key;
  const all = bars.data ?? [];
  return (
    <div className="with-rack">
      <nav className="rack-side steel-list" aria-label="Steels">
        <SteelPlaces />
      </nav>
      <main className="main page-in">
        <header className="head">
          <h1>Bars in stock</h1>
          {!open && (
            <Button variant="outline-primary" onClick={() => setOpen({ id: uuid(), ...EMPTY })}>
              Bring in a bar
            </Button>
          )}
        </header>
        {open && <BarForm key={open.id} first={open} onDone={() => setOpen(null)} />}
        {bars.error && <p className="notice">{problemOf(bars.error)}</p>}
        {bars.data && all.length === 0 && !open && (
          <p>
            Nothing in stock yet. Bring in a bar: blades made from it know its analysis, how it
            came, and what its layers bear.
          </p>
        )}
        <ul className="bars">
          {all.map((b) => (
            <li key={b.id} className={b.size.left_mm === 0 ? "used" : ""}>
              <button type="button" className="why" onClick={() => setOpen(written(b))}>
                {b.name}
              </button>
              <span>
                {b.layers.length > 0
                  ? b.layers.map((l) => `${nameOf(l.steel)} (${l.role})`).join(" + ")
                  : nameOf(b.steel)}
              </span>
              <span className="num">
                {show("length", b.size.width_mm)} × {show("length", b.size.thickness_mm)}
              </span>
              <span className="left-bar" aria-hidden="true">
                <i style={{ width: `${(100 * b.size.left_mm) / b.size.length_mm}%` }} />
              </span>
              <span className="num">
                {b.size.left_mm === 0 ? "used up" : `${show("length", b.size.left_mm)} left`}
              </span>
              <span className="soft">
                {CONDITIONS[b.condition]}
                {b.analysis ? ", mill analysis" : ""}
                {b.blades > 0 ? ` · ${b.blades} ${b.blades === 1 ? "blade" : "blades"}` : ""}
              </span>
            </li>
          ))}
        </ul>
      </main>
    </div>
  );
}
