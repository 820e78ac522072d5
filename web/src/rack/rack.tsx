import { Suspense, useState } from "react";
import { Button } from "react-bootstrap";
import { Link } from "react-router";
import { useMay, useRack } from "../api/queries";
import { Silhouette } from "../drawing/blade-drawing";
import { page } from "../page";
import { useNow } from "./now";
import css from "./rack.module.css";
import { grouped, scaleFor } from "./rack-side";

// The form brings much with it that the rack itself has no use for.
const StationStrip = page(() => import("./station-strip").then((m) => m.StationStrip));
const Finished = page(() => import("./finished").then((m) => m.Finished));
const NewBlade = page(() => import("./new-blade").then((m) => m.NewBlade));

/** Home: the blades in work at one scale, those that need something now first. */
export function RackPage() {
  const rack = useRack();
  const now = useNow(5_000);
  const [adding, setAdding] = useState(false);
  const plans = useMay("smith");
  const blades = rack.data ?? [];
  const scale = scaleFor(blades, 330);
  const empty = rack.isSuccess && blades.length === 0;
  return (
    <main className={`page ${css.rack}`}>
      <div className="row-of top-line">
        <h1>Rack</h1>
        {!empty && plans && (
          <Button
            variant="outline-primary"
            aria-expanded={adding}
            onClick={() => setAdding(!adding)}
          >
            {adding ? "Not now" : "New blade"}
          </Button>
        )}
      </div>
      {empty && (
        <p>
          Nothing in work.
          {plans &&
            " Say what the next blade is and you get its plan, the hardness to expect, and how sure that is. Everything can be changed afterwards."}
        </p>
      )}
      {plans && (adding || empty) && (
        <Suspense fallback={null}>
          <NewBlade />
        </Suspense>
      )}
      {rack.error && <p role="alert">{rack.error.message}</p>}
      {grouped(blades, now).map((g) => (
        <section key={g.group}>
          <h2>{g.name}</h2>
          <ul className={css.pegs}>
            {g.blades.map(({ blade, at }) => (
              <li key={blade.id}>
                <Link
                  to={blade.firing_open ? `/firings/${blade.firing_id}` : `/blades/${blade.id}`}
                  className={at.loud ? "loud" : ""}
                >
                  <Silhouette outline={blade.outline} scale={scale} loud={at.loud} />
                  <span className={css.what}>
                    <b className="num">{blade.mark}</b> <b>{blade.name}</b>{" "}
                    <span className="soft">{blade.steel_name}</span>
                  </span>
                  <span className={at.loud ? "loud" : "soft"}>{at.text}</span>
                </Link>
              </li>
            ))}
          </ul>
        </section>
      ))}
      <Suspense fallback={null}>
        <StationStrip />
        <Finished />
      </Suspense>
    </main>
  );
}
