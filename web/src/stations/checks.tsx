import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button } from "react-bootstrap";
import { api, type CalibrationRow, type Station, take } from "../api/client";
import { changed } from "../api/live";
import { useUnits } from "../quantity/units";
import { AddCheck } from "./add-check";
import { Drift } from "./drift";

/** The checks of a station: the newest corrects everything that goes through it. */
export function Checks({ station, all }: { station: Station; all: CalibrationRow[] }) {
  const client = useQueryClient();
  const { show, degrees } = useUnits();
  const withdraw = useMutation({
    mutationFn: (id: string) =>
      take(
        api.DELETE("/api/v1/stations/{id}/calibrations/{calibration}", {
          params: { path: { id: station.id, calibration: id } },
        }),
      ),
    onSuccess: () => changed(client, "calibration", ""),
  });
  if (!station.scale) return null;
  const hardness = station.scale === "hardness";
  const value = (v: number) => (hardness ? v.toFixed(1) : show("temperature", v));
  const off = (v: number) =>
    hardness ? `${v < 0 ? "−" : "+"}${Math.abs(v).toFixed(1)} HRC` : degrees(v);
  return (
    <section className="checks-of">
      <h3>Checks</h3>
      <p className="soft">
        {all.some((c) => !c.withdrawn_at)
          ? "How much it shows too much. Predictions, readings and traces all count the newest one."
          : "Never checked: what it shows is taken at its word."}
      </p>
      <Drift all={all} />
      <div className="two">
        <AddCheck key={station.id} station={station} />
        <ul className="lines">
          {all.toReversed().map((c) => (
            <li key={c.id} className={c.withdrawn_at ? "withdrawn" : ""}>
              <b>{new Date(c.done_at).toLocaleDateString("en-GB", { dateStyle: "medium" })}</b>{" "}
              <span className="num">
                {c.points
                  .map((p) => `${value(p[0] ?? 0)} shown, ${value(p[1] ?? 0)} real`)
                  .join("; ")}
              </span>
              {c.drift !== null && c.drift !== undefined && (
                <span className="soft"> Moved {off(-c.drift)} since the check before.</span>
              )}
              {c.note && <span className="soft"> “{c.note}”</span>}
              {c.withdrawn_at ? (
                <span className="soft"> Withdrawn: kept, not used.</span>
              ) : (
                <Button variant="link" onClick={() => withdraw.mutate(c.id)}>
                  Withdraw
                </Button>
              )}
            </li>
          ))}
        </ul>
      </div>
    </section>
  );
}
