import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Table } from "react-bootstrap";
import { v7 as uuid } from "uuid";
import {
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
import { Saved, TextField, useSavedForm } from "../fields/saved-form";
import { Row, SOURCES } from "./method-row";
import css from "./plan.module.css";

/** What tells the methods apart, where all of them come out right. */
const APART: Record<MethodsView["told_apart_by"], string> = {
  right: "",
  hours: "in how long they take: the quickest first",
  grain: "in grain: the finest first",
  crack: "in cracks: the safest first",
  bend: "in how often they bend: the straightest first",
};

interface Props {
  blade: Blade;
  /** The plan as it is, to be kept as a method. */
  steps: Step[];
  locked: boolean;
  onUse: (steps: Step[], clay?: Clay) => void;
}

/** Keeps the plan as a method of the house, or as the next version of one. */
function KeepMethod(props: { steps: Step[]; methods: MethodView[]; onKept: () => void }) {
  const { steps, methods } = props;
  const called = (name: string) =>
    methods
      .filter((m) => m.source === "house")
      .find((m) => m.name.toLowerCase() === name.trim().toLowerCase());
  const { form, run, submit, wrong } = useSavedForm({
    values: { name: "" },
    save: ({ name }) => {
      const same = called(name);
      if (!same) {
        return take(api.POST("/api/v1/methods", { body: { id: uuid(), name, note: "", steps } }));
      }
      return take(
        api.PUT("/api/v1/methods/{id}", {
          params: { path: { id: same.id } },
          body: { name: same.name, note: same.note, steps, version: same.version },
        }),
      );
    },
    onSaved: (_, form) => {
      form.reset();
      props.onKept();
    },
  });
  const name = form.watch("name");
  const same = called(name);
  return (
    <form className="keep" onSubmit={submit}>
      <TextField form={form} name="name" label="Keep this plan as" max={80} />
      <Button type="submit" disabled={name.trim() === "" || run.isPending}>
        {same ? `Save version ${same.version + 1}` : "Save as a house method"}
      </Button>
      <Saved wrong={wrong} saved={false} word="" />
    </form>
  );
}

/** Ways of working side by side: what each would make of this blade. */
export function Methods({ blade, steps, locked, onUse }: Props) {
  const client = useQueryClient();
  const all = useQuery(queries.methods(blade.id, blade.version));
  const again = () => client.invalidateQueries({ queryKey: ["methods"] });
  const retire = useMutation({
    mutationFn: (id: string) =>
      take(api.DELETE("/api/v1/methods/{id}", { params: { path: { id } } })),
    onSuccess: again,
  });
  if (all.error) return <p className="notice">{problemOf(all.error)}</p>;
  if (!all.data) return <p className="soft">Trying every method on this blade…</p>;
  const chance = (m: MethodView) => (m.against ? -1 : (m.fit?.right ?? -1));
  const { methods, told_apart_by } = all.data as { methods: MethodView[] } & MethodsView;
  const most = Math.max(0, ...methods.map(chance));
  const near = methods.filter((m) => chance(m) > most - 0.01);
  // Where many are as good as each other, the numbers favour none.
  const favoured = near.length <= 3 && told_apart_by === "right" ? near : [];
  return (
    <section className="methods" aria-label="Methods">
      <Table>
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
              <tr className={css.source}>
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
      </Table>
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
      <KeepMethod steps={steps} methods={methods} onKept={again} />
    </section>
  );
}
