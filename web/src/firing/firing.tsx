import { Link, useParams } from "react-router";
import { Boundary } from "../boundary";
import { AtTheFire } from "./at-the-fire";
import css from "./firing.module.css";
import { useFiring, useInFire } from "./in-fire";
import { Plain } from "./plain";

/** The forge view: near dark, one big action, a clock that can be read across the room. */
export function FiringPage() {
  const { id = "" } = useParams();
  const { error, firing } = useFiring(id);
  const all = useInFire();
  if (!firing) {
    return (
      <div className={css["lights-out"]}>
        {error && (
          <>
            <p>{error.message}</p>
            <Link to="/">To the rack</Link>
          </>
        )}
      </div>
    );
  }
  return (
    <Boundary
      of={id}
      instead={(error, again) => <Plain firing={firing} error={error} again={again} />}
    >
      <AtTheFire key={id} firing={firing} all={all} />
    </Boundary>
  );
}
