import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { v7 as uuid } from "uuid";
import { api, type Blade, type Firing, take } from "../api/client";
import { changed } from "../api/live";
import { queries } from "../api/queries";
import css from "./firing.module.css";
import { journal } from "./journal";
import { event, moment } from "./press";

const ready = (blade: Blade) =>
  !!blade.plan_id && !blade.plan_frozen && !blade.firing_open && !blade.finished_at;

/** The action that the joining blade shares with this one: its first, where this one has just done the same. */
export function shared(front: Firing, joining: Firing): boolean {
  const last = front.actions[front.state.position - 1];
  const first = joining.actions[0];
  const of = (firing: Firing, step: number) => {
    const s = firing.steps[step];
    return s && "temperature_c" in s ? `${s.kind} ${Math.round(s.temperature_c)}` : s?.kind;
  };
  return (
    !!last?.together &&
    !!first &&
    last.kind.code === first.kind.code &&
    of(front, last.step) === of(joining, first.step)
  );
}

/** Another blade goes into the fire: its plan is frozen, and it is where this one is where both begin alike. */
export function Joining(props: { firing: Firing; all: Firing[]; onJoined: () => void }) {
  const client = useQueryClient();
  const rack = useQuery(queries.rack);
  const join = useMutation({
    networkMode: "always",
    mutationFn: async (blade: Blade) => {
      const path = { params: { path: { id: blade.id } } };
      const plan = await take(api.GET("/api/v1/blades/{id}/plan", path));
      const firing = await take(
        api.POST("/api/v1/blades/{id}/firings", {
          ...path,
          body: { id: uuid(), plan_version: plan.version },
        }),
      );
      if (shared(props.firing, firing)) {
        const body = event({ kind: "confirm", action: 0 }, moment());
        await journal.add([{ firing: firing.id, body }]);
      }
      return firing;
    },
    onSuccess: (firing) => {
      changed(client, "firing", firing.id, firing.blade_id);
      changed(client, "plan", "", firing.blade_id);
      client.invalidateQueries({ queryKey: ["in-fire"] });
      props.onJoined();
    },
  });
  const blades = (rack.data ?? []).filter(ready);
  return (
    <fieldset className={css.colours}>
      <legend>Its plan is frozen, and it goes in</legend>
      {blades.map((blade) => (
        <button
          key={blade.id}
          type="button"
          disabled={join.isPending}
          onClick={() => join.mutate(blade)}
        >
          {blade.mark} {blade.name}, {blade.steel_name}
        </button>
      ))}
      {rack.data && blades.length === 0 && (
        <p>No other blade has a plan that waits for the fire.</p>
      )}
      {rack.error && !rack.data && (
        <p role="status">
          A blade joins only while the server is there: what comes of it is predicted first.
        </p>
      )}
      {join.error && (
        <p className={`${css.caut} ${css.strong}`} role="alert">
          It could not join: {join.error.message}
        </p>
      )}
    </fieldset>
  );
}
