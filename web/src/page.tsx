import { type ComponentType, lazy } from "react";

const RELOADED = "vatten.reloaded";
/** A script that is missing again this soon after a reload is really missing, ms. */
const SOON = 20_000;

const loads: (() => Promise<unknown>)[] = [];

/** Fetches every place that was not opened yet, so that all of them are there when the server is gone. */
export function fetchPlaces() {
  for (const load of loads) load().catch(() => undefined);
}

/** Whether the page was loaded anew for a missing script just now; takes note that it will be. */
function reloadedLately() {
  const last = Number(sessionStorage.getItem(RELOADED) ?? 0);
  sessionStorage.setItem(RELOADED, String(Date.now()));
  return Date.now() - last < SOON;
}

/** Whether a reload would find a page: without a server it would lose the one that is open. */
const answers = () =>
  fetch("/assets.json", { cache: "no-store" }).then(
    (answer) => answer.ok,
    () => false,
  );

/**
 * A place of the application as a script of its own, fetched when it is first opened. After an update of the
 * server the scripts of the page that is open are gone: it is loaded anew then, once. Drawn again, a place that
 * could not be fetched is asked for again.
 */
export function page<P extends object>(load: () => Promise<ComponentType<P>>) {
  loads.push(load);
  const fetched = () =>
    lazy(async () => {
      try {
        return { default: await load() };
      } catch (error) {
        Place = fetched();
        if (!(await answers()) || reloadedLately()) throw error;
        location.reload();
        return new Promise<never>(() => undefined);
      }
    });
  let Place = fetched();
  return (props: P) => <Place {...props} />;
}
