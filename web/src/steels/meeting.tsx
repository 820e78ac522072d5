import { useQuery } from "@tanstack/react-query";
import { type Layer, problemOf } from "../api/client";
import { queries } from "../api/queries";
import { useUnits } from "../quantity/units";
import { MEDIA } from "../words/names";
import { conflict } from "../words/steels";
import css from "./steels.module.css";

/** Where the layers of a bar meet, or why they do not. */
export function Meeting({ layers }: { layers: Layer[] }) {
  const { show, say } = useUnits();
  const met = useQuery({
    ...queries.meeting(layers),
    enabled: layers.length > 1,
  });
  if (layers.length < 2) return null;
  if (met.error) return <p className="wrong">{problemOf(met.error)}</p>;
  const m = met.data;
  if (!m) return null;
  const [low, high] = m.austenitize_c ?? [];
  return (
    <div className={css.meeting} role="status">
      <p>
        <b>{m.conflicts.length === 0 ? "✓ " : "✗ "}</b>
        {low !== undefined && high !== undefined
          ? `Together they are austenitized from ${show("temperature", low)} to ${show("temperature", high)}`
          : "Their windows do not meet"}
        {m.media.length > 0 && `, quenched in ${m.media.map((x) => MEDIA[x]).join(" or ")}`}.
      </p>
      {m.conflicts.map((c) => (
        <p key={conflict(c, say)} className="caution">
          {conflict(c, say)}
        </p>
      ))}
    </div>
  );
}
