import type { Firing, Sighting } from "../api/client";
import { choices } from "./choices";
import { FoundForm } from "./found-form";
import { keepOperator } from "./operator";
import { Otherwise } from "./otherwise";
import type { What } from "./press";
import { isHeat, SeenForm } from "./seen-form";

/** What is asked: how it really went, what a heat looks like, what was found. */
export type Which = "said" | "seen" | "found";

/** What was seen last: its event, and the step it was seen in. */
export interface Kept {
  id: string;
  by: Sighting;
  stepAt: number;
}

/** What is asked at the fire beside the next action; it closes once it was answered. */
export function Panel(props: {
  which: Which;
  firing: Firing;
  all: Firing[];
  /** Those that go on together, this one among them. */
  going: Firing[];
  stepAt: number;
  now: number;
  write: (events: { firing: string; what: What }[]) => Promise<string[]>;
  onKept: (kept: Kept | null) => void;
  onClose: () => void;
}) {
  const { firing, stepAt, onClose } = props;
  const step = firing.steps[stepAt];
  const last = firing.actions[firing.state.position - 1];
  const write = async (...all: What[]) => {
    const ids = await props.write(all.map((what) => ({ firing: firing.id, what })));
    // A press while another is being written is none: what was answered stays open.
    if (ids.length > 0) onClose();
    return ids;
  };
  if (props.which === "found") {
    return (
      <FoundForm
        firing={firing}
        first={step?.kind === "check" && step.look !== "magnet" ? step.look : undefined}
        onCancel={onClose}
        onFound={(found) => write({ kind: "found", found })}
      />
    );
  }
  if (!step) return null;
  if (props.which === "seen") {
    if (!isHeat(step) || !("temperature_c" in step)) return null;
    return (
      <SeenForm
        firing={firing}
        step={step}
        now={props.now}
        atHeat={last?.mark === "hold_begins" && last.step === stepAt}
        onCancel={onClose}
        onSeen={async (seen) => {
          const [id] = await write({ kind: "say", step: stepAt, ...seen });
          props.onKept(id ? { id, by: seen.by, stepAt } : null);
        }}
      />
    );
  }
  return (
    <Otherwise
      firing={firing}
      all={props.all}
      stepAt={stepAt}
      onCancel={onClose}
      onJoined={onClose}
      onWay={async (way) => {
        // A load goes on together, each blade by its own steps.
        const those = props.going.flatMap((f) => {
          const same = f.id === firing.id ? way : choices(f).find((c) => c.key === way.key);
          return (same?.how ?? []).map((how) => ({
            firing: f.id,
            what: { kind: "deviate" as const, how },
          }));
        });
        if ((await props.write(those)).length > 0) onClose();
      }}
      onBath={(number, round, medium) => write({ kind: "say", step: number, round, medium })}
      onSay={(said, operator) => {
        if (operator) keepOperator(operator);
        write(
          ...(said ? [{ kind: "say" as const, step: stepAt, ...said }] : []),
          ...(operator ? [{ kind: "operator" as const, name: operator }] : []),
        );
      }}
      onEnd={(end) => write({ kind: "close", end })}
    />
  );
}
