import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button } from "react-bootstrap";
import { api, type TesterValue, take } from "../api/client";
import { useTesterValues } from "../api/queries";
import { hrc } from "../words/names";
import css from "./readings.module.css";

/** Values of a connected tester that wait: each is taken into these readings by hand, or put aside. */
export function FromTester(props: {
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
    <div className={`wide ${css["from-tester"]}`} role="status">
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
