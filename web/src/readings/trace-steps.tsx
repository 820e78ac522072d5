import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button, Table } from "react-bootstrap";
import { v7 as uuid } from "uuid";
import { api, type Firing, type TraceView, take } from "../api/client";
import { changed } from "../api/live";
import { useUnits } from "../quantity/units";
import { STEPS, span } from "../words/names";
import css from "./readings.module.css";

/** What a trace says of the steps, and taking it into the record. */
export function Steps({ trace, firing }: { trace: TraceView; firing: Firing }) {
  const client = useQueryClient();
  const { show, degrees } = useUnits();
  const say = useMutation({
    mutationFn: ({ step, round, really }: { step: number; round?: number; really: number[] }) =>
      take(
        api.POST("/api/v1/firings/{id}/events", {
          params: { path: { id: firing.id } },
          body: {
            id: uuid(),
            kind: "say",
            step,
            round,
            temperature_c: really[0],
            lasted_s: really[1],
            note: `From the trace of ${trace.name}`,
          },
        }),
      ),
    onSuccess: () => {
      changed(client, "firing", firing.id, firing.blade_id);
      changed(client, "trace", trace.id, firing.blade_id);
      // What really was is learned from.
      changed(client, "reading", "", firing.blade_id);
    },
  });
  if (trace.steps.length === 0) {
    return (
      <p className="soft">It tells of no step of this firing: look at its times and its place.</p>
    );
  }
  return (
    <>
      <Table className={css["trace-steps"]}>
        <thead>
          <tr>
            <th>Step</th>
            <th>Planned</th>
            <th>Really at heat</th>
            <th>Over, under</th>
            <th>Does as much as</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {trace.steps.map((s, i) => {
            const really = trace.to_say[i] ?? null;
            const of = firing.steps[s.step];
            const rounds = of?.kind === "temper" && of.times > 1 ? of.times : 0;
            const unknown = s.held.unknown_s > 0 ? `, ${span(s.held.unknown_s)} unknown` : "";
            return (
              <tr key={`${s.step} ${s.round}`}>
                <th scope="row">
                  {STEPS[of?.kind ?? "temper"]}
                  {rounds > 0 && `, ${s.round + 1} of ${rounds}`}
                </th>
                <td className="num">
                  {show("temperature", s.planned_c)}, {span(s.planned_s)}
                </td>
                <td className="num">
                  {s.held.mean_c === null || s.held.mean_c === undefined
                    ? "never at heat"
                    : `${show("temperature", s.held.mean_c)}, ${span(s.held.at_heat_s)}${unknown}`}
                </td>
                <td className="num">
                  {degrees(s.held.overshoot_c)}, {degrees(-s.held.undershoot_c)}
                </td>
                <td className="num">
                  {s.temper ? `${show("temperature", s.temper.as_steady_c)} all along` : ""}
                </td>
                <td>
                  {really && (
                    <Button
                      variant="link"
                      onClick={() =>
                        say.mutate({
                          step: s.step,
                          round: rounds > 0 ? s.round : undefined,
                          really,
                        })
                      }
                    >
                      Take into the record
                    </Button>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </Table>
      {say.error && (
        <p className="wrong" role="alert">
          {say.error.message}
        </p>
      )}
      {say.isSuccess && (
        <p className="soft" role="status">
          Taken: what was done now says what was measured.
        </p>
      )}
    </>
  );
}
