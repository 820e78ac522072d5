import { Link } from "react-router";
import type { Blade } from "../api/client";
import { useRack } from "../api/queries";
import { Silhouette } from "../drawing/blade-drawing";
import { type Standing, standing } from "../words/standing";
import { useNow } from "./now";
import css from "./rack.module.css";

export const GROUPS: [Standing["group"], string][] = [
  ["now", "Needs you now"],
  ["fire", "Under way"],
  ["bench", "On the bench"],
];

/** The blades in work, those that need something now first. */
export function grouped(blades: Blade[], now: number) {
  return GROUPS.map(([group, name]) => ({
    group,
    name,
    blades: blades
      .map((blade) => ({ blade, at: standing(blade, now) }))
      .filter((b) => b.at.group === group)
      .sort((a, b) =>
        (a.blade.untempered_since ?? "9").localeCompare(b.blade.untempered_since ?? "9"),
      ),
  })).filter((g) => g.blades.length > 0);
}

/** One scale for all, so that sizes can be compared. */
export function scaleFor(blades: Blade[], width: number): number {
  const spans = blades.map((b) => {
    const xs = b.outline.map((p) => p[0] ?? 0);
    return Math.max(...xs) - Math.min(...xs);
  });
  return width / Math.max(120, ...spans);
}

/** The rack beside an open blade. */
export function RackSide({ current }: { current: string }) {
  const rack = useRack();
  const now = useNow(10_000);
  const blades = rack.data ?? [];
  const scale = scaleFor(blades, 158);
  return (
    <nav className="rack-side" aria-label="Blades in work">
      {grouped(blades, now).map((g) => (
        <div key={g.group}>
          <h3>{g.name}</h3>
          {g.blades.map(({ blade, at }) => (
            <Link
              key={blade.id}
              to={`/blades/${blade.id}`}
              className={`${css.slot}${blade.id === current ? " on" : ""}`}
              aria-current={blade.id === current ? "page" : undefined}
            >
              <Silhouette outline={blade.outline} scale={scale} loud={at.loud} />
              <span>
                <b>{blade.mark}</b> {blade.steel_name}
              </span>
              <span className={at.loud ? "loud" : "soft"}>{at.text}</span>
            </Link>
          ))}
        </div>
      ))}
    </nav>
  );
}
