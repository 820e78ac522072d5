import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useId, useState } from "react";
import { Button, Form, Table } from "react-bootstrap";
import { Link, useSearchParams } from "react-router";
import { type CompareView, type Marked, problemOf } from "../api/client";
import { queries } from "../api/queries";
import { Silhouette } from "../drawing/blade-drawing";
import { Field } from "../fields/field";
import { useUnits } from "../quantity/units";
import css from "./compare.module.css";
import { ASPECTS, cameRows, did, explain, was } from "./words";

/** Most blades side by side. */
const MOST = 6;

/** Finds a fired blade by its mark and adds it. */
function Add({ chosen, onAdd }: { chosen: string[]; onAdd: (id: string) => void }) {
  const id = useId();
  const client = useQueryClient();
  const [typed, setTyped] = useState("");
  const [told, setTold] = useState("");
  const begins = typed.trim();
  const found = useQuery({ ...queries.marked(begins), placeholderData: (before) => before });
  const free = (all: Marked[] | undefined) => (all ?? []).filter((b) => !chosen.includes(b.id));
  const add = async () => {
    try {
      const all = free(await client.fetchQuery(queries.marked(begins)));
      const [only] = all;
      const exact = all.find((b) => b.mark.toLowerCase() === begins.toLowerCase());
      const hit = exact ?? (all.length === 1 ? only : undefined);
      const none = chosen.length === 0 ? "No fired blade" : "No other fired blade";
      if (!only) return setTold(`${none} has a mark that begins so.`);
      if (!hit) return setTold(`Several begin so: ${all.map((b) => b.mark).join(", ")}.`);
      setTold("");
      setTyped("");
      onAdd(hit.id);
    } catch (error) {
      setTold(problemOf(error));
    }
  };
  return (
    <form
      className={css["add-blade"]}
      onSubmit={(e) => {
        e.preventDefault();
        if (begins) add();
      }}
    >
      <Field label={chosen.length === 0 ? "A fired blade, by its mark" : "Beside it, by its mark"}>
        {(tie) => (
          <Form.Control
            {...tie}
            list={id}
            value={typed}
            maxLength={20}
            autoComplete="off"
            onChange={(e) => {
              setTyped(e.target.value);
              setTold("");
            }}
          />
        )}
      </Field>
      <datalist id={id}>
        {free(found.data).map((b) => (
          <option key={b.id} value={b.mark}>
            {b.name}, {b.steel_name}
          </option>
        ))}
      </datalist>
      <Button type="submit" variant="outline-primary" disabled={begins === ""}>
        Add
      </Button>
      <span role="status">{told}</span>
    </form>
  );
}

/** The blades side by side. */
function Compared({ view, onDrop }: { view: CompareView; onDrop: (id: string) => void }) {
  const units = useUnits();
  const { blades } = view;
  const scale = Math.min(...blades.map((b) => 150 / b.length_mm));
  const pairOf = (id: string) => view.against_first.find((p) => p.id === id);
  return (
    <Table
      className={`${css.compared} ${blades.length > 3 ? "more" : blades.length > 2 ? css.three : ""}`}
    >
      <thead>
        <tr>
          <td />
          {blades.map((b) => (
            <th key={b.id} scope="col">
              <Silhouette outline={b.outline} scale={scale} />
              <Link to={`/blades/${b.id}/story`} className="num">
                {b.mark}
              </Link>{" "}
              {b.name}
              <button
                type="button"
                className="why"
                aria-label={`Leave out ${b.mark}`}
                onClick={() => onDrop(b.id)}
              >
                leave out
              </button>
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        <tr>
          <th scope="rowgroup" colSpan={blades.length + 1}>
            <h2>What differed</h2>
          </th>
        </tr>
        {view.differ.length === 0 && (
          <tr>
            <td />
            <td colSpan={blades.length}>
              Nothing that is written down, beyond what a clock tells.
            </td>
          </tr>
        )}
        {view.differ.map((aspect) => (
          <tr key={aspect}>
            <th scope="row">{ASPECTS[aspect]}</th>
            {blades.map((b) => {
              const pair = pairOf(b.id);
              const said = pair ? did(pair, aspect, units) : "";
              return (
                <td key={b.id}>
                  {said === null ? (
                    <span className="soft">as the first</span>
                  ) : (
                    <>
                      {was(b, aspect, units)}
                      {said && <b className="num"> {said}</b>}
                    </>
                  )}
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
      <tbody>
        <tr>
          <th scope="rowgroup" colSpan={blades.length + 1}>
            <h2>What came of it</h2>
          </th>
        </tr>
        {cameRows(blades, units).map((row) => (
          <tr key={row.name}>
            <th scope="row">{row.name}</th>
            {row.cells.map((cell, i) => (
              <td key={blades[i]?.id}>
                <b className="num">{cell.measured || "—"}</b>
                {cell.foreseen && <span className="soft"> foreseen {cell.foreseen}</span>}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </Table>
  );
}

/** Two or more fired blades: in what they differed, what came of it, and what did it. */
export function CompareBladesPage() {
  const units = useUnits();
  const [params, setParams] = useSearchParams();
  const chosen = (params.get("blades") ?? "").split(",").filter(Boolean).slice(0, MOST);
  const choose = (ids: string[]) =>
    setParams(ids.length > 0 ? { blades: ids.join(",") } : {}, { replace: true });
  const blades = chosen.join(",");
  const query = useQuery({
    ...queries.compare(blades),
    enabled: chosen.length >= 2,
  });
  const view = chosen.length >= 2 ? query.data : undefined;
  const [first] = view?.blades ?? [];
  return (
    <main className="page lessons">
      <div className="head">
        <h1>Compare blades</h1>
        <Link to="/lessons">Lessons</Link>
      </div>
      {chosen.length < MOST && <Add chosen={chosen} onAdd={(id) => choose([...chosen, id])} />}
      {chosen.length < 2 && (
        <p className="soft">
          {chosen.length === 0
            ? "Choose two or more blades that were quenched. The others are held against the first."
            : "One is chosen. Choose another to hold against it."}
        </p>
      )}
      {query.isFetching && !view && <p role="status">Working it out…</p>}
      {query.error && <p role="alert">{query.error.message}</p>}
      {view && first && (
        <>
          <ul className="sentences wide">
            {view.against_first.map((pair) => {
              const other = view.blades.find((b) => b.id === pair.id);
              return other && <li key={pair.id}>{explain(first, other, pair, units).join(" ")}</li>;
            })}
          </ul>
          {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls sideways, by keys too */}
          <section className={css["side-by-side"]} aria-label="Side by side" tabIndex={0}>
            <Compared view={view} onDrop={(id) => choose(chosen.filter((c) => c !== id))} />
          </section>
        </>
      )}
    </main>
  );
}
