import { type ComponentType, lazy } from "react";

const RELOADED = "vatten.reloaded";
/** A script that is missing again this soon after a reload is really missing, ms. */
const SOON = 20_000;

/** Whether the page was loaded anew for a missing script just now; takes note that it will be. */
function reloadedLately() {
  const last = Number(sessionStorage.getItem(RELOADED) ?? 0);
  sessionStorage.setItem(RELOADED, String(Date.now()));
  return Date.now() - last < SOON;
}

/**
 * A place of the application as a script of its own, fetched when it is first opened. After an update of the
 * server the scripts of the page that is open are gone: it is loaded anew then, once.
 */
export function page<P>(load: () => Promise<ComponentType<P>>) {
  return lazy(() =>
    load().then(
      (component) => ({ default: component }),
      (error: unknown) => {
        if (reloadedLately()) throw error;
        location.reload();
        return new Promise<never>(() => undefined);
      },
    ),
  );
}
