import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import type { Clay, MethodView, Step } from "../api/client";
import { queries } from "../api/queries";
import { stepSentence } from "../drawing/step-words";
import { useUnits } from "../quantity/units";
import { against, method as describe, fits, unreadable } from "../words/methods";
import { hrc, span } from "../words/names";
import css from "./plan.module.css";

export const SOURCES: Record<MethodView["source"], string> = {
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

export function Row({ method, best, locked, onUse, onRetire }: RowProps) {
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
      <tr className={method.against ? css.against : ""}>
        <th scope="row">
          <button type="button" className="why" aria-expanded={open} onClick={() => setOpen(!open)}>
            {told.name}
          </button>
          {best && <span className={css.favoured}> ← the numbers favour this</span>}
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
