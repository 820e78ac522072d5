import css from "./firing.module.css";
import { clock, timing } from "./timing";

/** A stage shorter than this is counted in tenths, s. */
const TENTHS = 20;

/** The clock that can be read across the room, with what it counts to. */
export function ClockFace(props: {
  /** ms of the server. */
  now: number;
  /** When it began, ms of the server. */
  since?: number;
  /** s. */
  lasts?: number;
}) {
  const { now, since, lasts } = props;
  const t = timing(now, since, lasts);
  const tenths = since !== undefined && lasts !== undefined && lasts < TENTHS && !t.over;
  return (
    <>
      <div className="clock num" role="timer" aria-label={t.spoken}>
        {since === undefined
          ? "0:00"
          : tenths
            ? ((lasts * 1000 - (now - since)) / 1000).toFixed(1)
            : clock(t.shown)}
      </div>
      <div className={`${css.dim} ${css.centre}`}>
        {t.of}
        {since
          ? ` from ${new Date(since).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" })}`
          : "not begun"}
        {t.over && <b className={css["over-time"]}> time is up</b>}
      </div>
    </>
  );
}
