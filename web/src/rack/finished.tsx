import { useInfiniteQuery } from "@tanstack/react-query";
import { Button } from "react-bootstrap";
import { Link } from "react-router";
import { queries } from "../api/queries";
import { Silhouette } from "../drawing/blade-drawing";
import css from "./rack.module.css";
import { scaleFor } from "./rack-side";

/** Finished blades, newest first, fifty at a time. */
export function Finished() {
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
