import { useInfiniteQuery } from "@tanstack/react-query";
import { Suspense, useState } from "react";
import { Button } from "react-bootstrap";
import { Link } from "react-router";
import { queries, useRack } from "../api/queries";
import { Silhouette } from "../drawing/blade-drawing";
import { page } from "../page";
import { useNow } from "./now";
import css from "./rack.module.css";
import { grouped, scaleFor } from "./rack-side";

// The form brings much with it that the rack itself has no use for.
const StationStrip = page(() => import("./station-strip").then((m) => m.StationStrip));
const NewBlade = page(() => import("./new-blade").then((m) => m.NewBlade));

/** Finished blades, newest first, fifty at a time. */
function Finished() {
  const finished = useInfiniteQuery(queries.finished);
  const all = finished.data?.pages.flat() ?? [];
  if (all.length === 0) return null;
  const scale = scaleFor(all, 130);
  return (
    <section className={css.finished}>
      <h2>Off the rack</h2>
      <ul>
        {all.map((b) => (
          <li key={b.id}>
            <Link to={`/blades/${b.id}/readings`}>
              <span className="shape">
                <Silhouette outline={b.outline} scale={scale} />
              </span>
              <b className="num">{b.mark}</b>
              <span>{b.name}</span>
              <span className="soft">{b.steel_name}</span>
            </Link>
          </li>
        ))}
      </ul>
      {finished.hasNextPage && (
        <Button variant="link" onClick={() => finished.fetchNextPage()}>
          Older ones
        </Button>
      )}
    </section>
  );
}

/** Home: the blades in work at one scale, those that need something now first. */
export function RackPage() {
  const rack = useRack();
  const now = useNow(5_000);
  const [adding, setAdding] = useState(false);
  const blades = rack.data ?? [];
  const scale = scaleFor(blades, 330);
  const empty = rack.isSuccess && blades.length === 0;
  return (
    <main className={`page ${css.rack}`}>
      <div className="row-of top-line">
        <h1>Rack</h1>
        {!empty && (
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
          Nothing in work. Say what the next blade is and you get its plan, the hardness to expect,
          and how sure that is. Everything can be changed afterwards.
        </p>
      )}
      {(adding || empty) && (
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
      </Suspense>
      <Finished />
    </main>
  );
}
