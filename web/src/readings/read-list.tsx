import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { api, type NotCounted, type Reading, take } from "../api/client";
import { changed } from "../api/live";
import { hrc } from "../words/names";
import css from "./readings.module.css";

const WHY: Record<NotCounted["why"], string> = {
  warm: "read while warm",
  skin_on: "read with the skin on",
  set_aside: "set aside",
  above_the_line: "above the line: the soft back",
};

/** Why a value does not count, in words. */
export function why(not: NotCounted): string {
  return not.why === "set_aside" ? `set aside: ${not.reason}` : WHY[not.why];
}

/** What is said of a set as a whole: what counts, and what its tester's check makes of it. */
export function summary(r: Reading): string {
  const out = r.not_counted.filter(Boolean).length;
  const whole = r.not_counted[0];
  if (r.counted_hrc === null || r.counted_hrc === undefined) {
    return `Not learned from: ${whole ? why(whole) : "nothing counts"}.`;
  }
  const part = out > 0 ? `${r.values_hrc.length - out} of ${r.values_hrc.length} count. ` : "";
  const moved = Math.abs((r.corrected_hrc ?? r.counted_hrc) - r.counted_hrc) >= 0.05;
  return `${part}${moved ? `${hrc(r.corrected_hrc ?? 0)} HRC by the tester's check.` : ""}`;
}

/** One value: it can be set aside with a reason, and taken back. */
function Value(props: { reading: Reading; index: number; blade: string }) {
  const { reading: r, index } = props;
  const client = useQueryClient();
  const [asking, setAsking] = useState(false);
  const [reason, setReason] = useState("");
  const save = useMutation({
    mutationFn: (aside: { index: number; reason: string }[]) =>
      take(
        api.PUT("/api/v1/blades/{id}/readings/{reading}/aside", {
          params: { path: { id: props.blade, reading: r.id } },
          body: { aside, version: r.version },
        }),
      ),
    onSuccess: () => {
      setAsking(false);
      changed(client, "reading", "", props.blade);
    },
  });
  const not = r.not_counted[index];
  const odd = r.outlier === index;
  const others = (r.taken.aside ?? []).filter((a) => a.index !== index);
  const value = hrc(r.values_hrc[index] ?? 0);
  if (asking) {
    return (
      <form
        className={`row-of ${css.aside}`}
        onSubmit={(e) => {
          e.preventDefault();
          if (reason.trim()) save.mutate([...others, { index, reason: reason.trim() }]);
        }}
      >
        <Form.Control
          aria-label={`Why ${value} is set aside`}
          placeholder="why: slid off the bevel, dent beside it…"
          value={reason}
          maxLength={200}
          autoFocus
          onChange={(e) => setReason(e.target.value)}
        />
        <Button type="submit" disabled={reason.trim() === ""}>
          Set {value} aside
        </Button>
        <Button variant="link" onClick={() => setAsking(false)}>
          Never mind
        </Button>
        {save.error && <span className="wrong">{save.error.message}</span>}
      </form>
    );
  }
  return (
    <span className={`value${not ? ` ${css.not}` : ""}`}>
      <b className="num">{value}</b>
      {odd && <span className={css.odd}> odd one out</span>}
      {not && <span className="soft"> {why(not)}</span>}
      {!r.withdrawn_at && !not && (
        <Button
          variant="link"
          aria-label={`Set ${value} aside`}
          onClick={() => setAsking(true)}
          className={odd ? "" : css.quiet}
        >
          {odd ? "Set aside" : "aside"}
        </Button>
      )}
      {!r.withdrawn_at && not?.why === "set_aside" && (
        <Button variant="link" onClick={() => save.mutate(others)}>
          Take back
        </Button>
      )}
    </span>
  );
}

/** The readings of a blade, newest last, each value with what it counts for. */
export function ReadList(props: {
  blade: string;
  readings: Reading[];
  stages: Record<string, string>;
  testers: Map<string, string>;
  onWithdraw: (id: string) => void;
}) {
  return (
    <ul className={css["read-list"]}>
      {props.readings.map((r) => (
        <li key={r.id} className={r.withdrawn_at ? "withdrawn" : ""}>
          <span className={`num ${css.mean}`}>{hrc(r.counted_hrc ?? r.mean_hrc)}</span>
          <span>
            {r.values_hrc.map((v, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: values never reorder
              <Value key={`${v} ${i}`} reading={r} index={i} blade={props.blade} />
            ))}
            <br />
            <span className="soft">
              {props.stages[r.stage]}
              {r.tester_id ? `, ${props.testers.get(r.tester_id) ?? "a tester"}` : ""},{" "}
              {new Date(r.taken_at).toLocaleDateString("en-GB", { dateStyle: "medium" })}
              {r.note ? `. “${r.note}”` : ""}
              {r.withdrawn_at ? ". Withdrawn: kept, not learned from." : "."} {summary(r)}
            </span>
          </span>
          {!r.withdrawn_at && (
            <Button variant="link" onClick={() => props.onWithdraw(r.id)}>
              Withdraw
            </Button>
          )}
        </li>
      ))}
    </ul>
  );
}
