import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { v7 as uuid } from "uuid";
import {
  ApiError,
  api,
  type Blade,
  type Clay,
  type MethodsView,
  type MethodView,
  problemOf,
  type Step,
  take,
} from "../api/client";
import { queries } from "../api/queries";
import { stepSentence } from "../drawing/heat-path";
import { Text } from "../fields/text";
import { useUnits } from "../quantity/units";
import { against, method as describe, fits, unreadable } from "../words/methods";
import { hrc, span } from "../words/names";

const SOURCES: Record<MethodView["source"], string> = {
  school: "Schools",
  house: "Your own methods",
  blade: "Blades that came out well",
};

/** The clay that goes with a method. */
const LAYS: Record<MethodView["lays"], string> = {
  nothing: "",
  painted: "With the clay that is painted for this blade.",
  band: "With a plain band of clay along the back: using it paints that, to be changed under Clay.",
};

/** What tells the methods apart, where all of them come out right. */
const APART: Record<MethodsView["told_apart_by"], string> = {
  right: "",
  hours: "in how long they take: the quickest first",
  grain: "in grain: the finest first",
  crack: "in cracks: the safest first",
  bend: "in how often they bend: the straightest first",
};

const percent = (share: number) => (share < 0.005 ? "<1 %" : `${Math.round(100 * share)} %`);

/** A chance as a bar with its number: the number is what is read, the bar what is seen at a glance. */
function Chance({ share }: { share: number }) {
  return (
    <span className="chance">
      <i style={{ width: `${Math.round(100 * share)}%` }} />
      <b className="num">{percent(share)}</b>
    </span>
  );
}

interface RowProps {
  method: MethodView;
  best: boolean;
  locked: boolean;
  onUse: (steps: Step[], clay?: Clay) => void;
  onRetire: (id: string) => void;
}

function Row({ method, best, locked, onUse, onRetire }: RowProps) {
  const { show, about, say } = useUnits();
  const told = describe(method, say);
  const [open, setOpen] = useState(false);
  const versions = useQuery({
    ...queries.methodVersions(method.id, method.version),
    enabled: open && method.source === "house",
  });
  const c = method.compared;
  const steps = method.steps as Step[];
  return (
    <>
      <tr className={method.against ? "against" : ""}>
        <th scope="row">
          <button type="button" className="why" aria-expanded={open} onClick={() => setOpen(!open)}>
            {told.name}
          </button>
          {best && <span className="favoured"> ← the numbers favour this</span>}
          {method.against && <span className="soft"> · advised against</span>}
        </th>
        {c && method.fit ? (
          <>
            <td>
              <Chance share={method.fit.right} />
            </td>
            <td className="num">
              {hrc(c.tempered_hrc.middle)}
              <span className="soft"> ±{hrc((c.tempered_hrc.high - c.tempered_hrc.low) / 2)}</span>
            </td>
            <td className="num">
              {c.hamon_mm === null || c.hamon_mm === undefined ? "none" : about(c.hamon_mm)}
            </td>
            <td className="num">{percent(c.crack_probability)}</td>
            <td className="num">{percent(c.bent_probability)}</td>
            <td className="num">{c.grain_astm.toFixed(1)}</td>
            <td className="num">{span(3600 * method.fit.hours)}</td>
          </>
        ) : (
          <td colSpan={7} className="soft">
            {method.unreadable && unreadable(method.unreadable)}
          </td>
        )}
        <td>
          {!method.unreadable && !locked && (
            <Button
              variant="outline-primary"
              size="sm"
              onClick={() => onUse(steps, method.clay ?? undefined)}
            >
              Use it
            </Button>
          )}
        </td>
      </tr>
      {open && (
        <tr className="more">
          <td colSpan={9}>
            {method.against && <p className="caution">{against(method.against, say)}</p>}
            {told.reasons && <p>{told.reasons}</p>}
            {told.costs && <p>It costs: {told.costs}</p>}
            {method.fit && <p>{fits(method.fit)}</p>}
            {LAYS[method.lays] && <p className="soft">{LAYS[method.lays]}</p>}
            <p className="soft">{steps.map((s) => stepSentence(s, show)).join(" · ")}</p>
            {method.source === "house" && (
              <div className="row-of">
                <span className="soft">Version {method.version}.</span>
                {(versions.data ?? [])
                  .filter((v) => v.version !== method.version && !v.unreadable)
                  .map((v) => (
                    <Button
                      key={v.version}
                      variant="link"
                      disabled={locked}
                      onClick={() => onUse(v.steps as Step[])}
                    >
                      Use version {v.version} of {v.saved_at.slice(0, 10)}
                    </Button>
                  ))}
                <Button variant="link" onClick={() => onRetire(method.id)}>
                  Take it off the list
                </Button>
              </div>
            )}
          </td>
        </tr>
      )}
    </>
  );
}

interface Props {
  blade: Blade;
  /** The plan as it is, to be kept as a method. */
  steps: Step[];
  locked: boolean;
  onUse: (steps: Step[], clay?: Clay) => void;
}

/** Ways of working side by side: what each would make of this blade. */
export function Methods({ blade, steps, locked, onUse }: Props) {
  const client = useQueryClient();
  const [name, setName] = useState("");
  const all = useQuery(queries.methods(blade.id, blade.version));
  const again = () => client.invalidateQueries({ queryKey: ["methods"] });
  const same = (all.data?.methods ?? [])
    .filter((m) => m.source === "house")
    .find((m) => m.name.toLowerCase() === name.trim().toLowerCase());
  const keep = useMutation({
    mutationFn: () =>
      same
        ? take(
            api.PUT("/api/v1/methods/{id}", {
              params: { path: { id: same.id } },
              body: { name: same.name, note: same.note, steps, version: same.version },
            }),
          )
        : take(api.POST("/api/v1/methods", { body: { id: uuid(), name, note: "", steps } })),
    onSuccess: () => {
      setName("");
      again();
    },
  });
  const retire = useMutation({
    mutationFn: (id: string) =>
      take(api.DELETE("/api/v1/methods/{id}", { params: { path: { id } } })),
    onSuccess: again,
  });
  if (all.error) return <p className="notice">{problemOf(all.error)}</p>;
  if (!all.data) return <p className="soft">Trying every method on this blade…</p>;
  const fields = keep.error instanceof ApiError ? keep.error.fields : {};
  const chance = (m: MethodView) => (m.against ? -1 : (m.fit?.right ?? -1));
  const { methods, told_apart_by } = all.data as { methods: MethodView[] } & MethodsView;
  const most = Math.max(0, ...methods.map(chance));
  const near = methods.filter((m) => chance(m) > most - 0.01);
  // Where many are as good as each other, the numbers favour none.
  const favoured = near.length <= 3 && told_apart_by === "right" ? near : [];
  return (
    <section className="methods" aria-label="Methods">
      <table>
        <thead>
          <tr>
            <th scope="col">Method</th>
            <th scope="col">Comes out right</th>
            <th scope="col">HRC</th>
            <th scope="col">Line</th>
            <th scope="col">Cracks</th>
            <th scope="col">Bends</th>
            <th scope="col">Grain</th>
            <th scope="col">Holds</th>
            <td />
          </tr>
        </thead>
        {(Object.keys(SOURCES) as MethodView["source"][]).map((source) => {
          const list = methods.filter((m) => m.source === source);
          if (list.length === 0) return null;
          return (
            <tbody key={source}>
              <tr className="source">
                <th scope="rowgroup" colSpan={9}>
                  {SOURCES[source]}
                </th>
              </tr>
              {list.map((m) => (
                <Row
                  key={m.id}
                  method={m}
                  best={favoured.includes(m)}
                  locked={locked}
                  onUse={onUse}
                  onRetire={(id) => retire.mutate(id)}
                />
              ))}
            </tbody>
          );
        })}
      </table>
      {told_apart_by !== "right" ? (
        <p className="fine soft">
          All of these come out right about as often on this blade. They differ most{" "}
          {APART[told_apart_by]}.
        </p>
      ) : (
        favoured.length === 0 && (
          <p className="fine soft">
            The numbers hardly tell the best {near.length} apart on this blade: work the way you
            trust.
          </p>
        )
      )}
      <form
        className="keep"
        onSubmit={(e) => {
          e.preventDefault();
          keep.mutate();
        }}
      >
        <Text
          label="Keep this plan as"
          max={80}
          value={name}
          error={fields.name}
          onChange={setName}
        />
        <Button type="submit" disabled={name.trim() === "" || keep.isPending}>
          {same ? `Save version ${same.version + 1}` : "Save as a house method"}
        </Button>
        {keep.error && !fields.name && <span className="wrong">{problemOf(keep.error)}</span>}
      </form>
    </section>
  );
}
