/** What the server's clock is ahead of this device's, ms; kept for when the server is gone. */
const KEPT = "vatten.clock";

function kept(): number {
  const value = Number(localStorage.getItem(KEPT));
  return Number.isFinite(value) ? value : 0;
}

let ahead: number | undefined;

/** The time by the server's clock, ms since 1970: devices whose clocks differ show the same one. */
export function serverNow(): number {
  ahead ??= kept();
  return Date.now() + ahead;
}

/** Asks the server for its time, three times; the quickest answer tells most. */
export async function syncClock(): Promise<void> {
  let best = Number.POSITIVE_INFINITY;
  for (let i = 0; i < 3; i++) {
    const sent = Date.now();
    const answer = await fetch(new Request(new URL("/api/v1/now", window.location.origin)));
    const { now_ms } = (await answer.json()) as { now_ms?: number };
    const took = Date.now() - sent;
    if (now_ms === undefined || took >= best) continue;
    best = took;
    ahead = now_ms + took / 2 - Date.now();
  }
  if (ahead !== undefined) localStorage.setItem(KEPT, String(Math.round(ahead)));
}
