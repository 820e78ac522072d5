import { useEffect, useRef, useState } from "react";
import { Link, useLocation } from "react-router";
import { serverNow } from "../api/clock";
import { doing } from "../words/firing";
import { Ahead } from "./ahead";
import { type Alarm, due } from "./alarms";
import css from "./firing.module.css";
import { useInFire } from "./in-fire";
import { chime } from "./wake";

/** How often it is looked, ms: seconds in water are rung for to a tenth. */
const LOOK_MS = 100;

function words({ firing, what }: Alarm): string {
  const last = firing.actions[firing.state.position - 1];
  const on = last ? doing(last.doing) : "";
  return `${firing.mark} ${on}, ${what === "up" ? "time is up" : "two minutes left"}`;
}

/** Tells it outside of the page too, where the smith let the browser do so. */
async function notify(alarm: Alarm) {
  if (!("Notification" in window) || Notification.permission !== "granted") return;
  const [title, body] = [words(alarm), `${alarm.firing.name}, ${alarm.firing.steel_name}`];
  const options = { body, tag: alarm.firing.id, requireInteraction: alarm.what === "up" };
  try {
    const worker = await navigator.serviceWorker?.getRegistration();
    if (worker) await worker.showNotification(title, options);
    else new Notification(title, options);
  } catch {
    // The page rings; it is only not told outside of it.
  }
}

/** Rings for every blade in the fire, wherever in the shop somebody is; the last of it stands until it is taken away. */
export function Ringing() {
  const all = useInFire();
  const firings = useRef(all);
  firings.current = all;
  const { pathname } = useLocation();
  const rung = useRef(new Set<string>());
  const [shown, setShown] = useState<Alarm[]>([]);
  useEffect(() => {
    const look = setInterval(() => {
      const now = due(firings.current, serverNow(), rung.current);
      if (now.length === 0) return;
      for (const alarm of now) {
        rung.current.add(alarm.id);
        notify(alarm);
      }
      chime();
      setShown((before) => {
        const fresh = new Set(now.map((a) => a.firing.id));
        return [...before.filter((a) => !fresh.has(a.firing.id)), ...now];
      });
    }, LOOK_MS);
    return () => clearInterval(look);
  }, []);
  // What was pressed since is no longer due; the blade in front says it itself.
  const behind = shown.filter((a) => pathname !== `/firings/${a.firing.id}`);
  const standing = behind.filter((a) =>
    all.some(
      (f) => f.id === a.firing.id && f.state.position === a.firing.state.position && !f.closed_at,
    ),
  );
  const away = (alarm: Alarm) => setShown((before) => before.filter((a) => a.id !== alarm.id));
  // What is up goes before what is ahead.
  return (
    <>
      <Ahead quiet={standing.length > 0} />
      {standing.length > 0 && (
        <div className={css.ringing} role="alert">
          {standing.map((alarm) => (
            <div key={alarm.id}>
              <Link to={`/firings/${alarm.firing.id}`} onClick={() => away(alarm)}>
                {words(alarm)}
              </Link>
              <button type="button" onClick={() => away(alarm)}>
                Heard
              </button>
            </div>
          ))}
        </div>
      )}
    </>
  );
}
