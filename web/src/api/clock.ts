import { api, take } from "./client";

/** What the server's clock is ahead of this device's, ms; kept for when the server is gone. */
const KEPT = "vatten.clock";

function kept(): number | undefined {
  const text = localStorage.getItem(KEPT);
  const value = Number(text);
  return text !== null && Number.isFinite(value) ? value : undefined;
}

let measured: number | undefined;

/** What the server's clock was last measured to be ahead of this device's, ms; undefined before that. */
export function aheadMs(): number | undefined {
  measured ??= kept();
  return measured;
}

/** The time by the server's clock, ms since 1970: devices whose clocks differ show the same one. */
export function serverNow(): number {
  return Date.now() + (aheadMs() ?? 0);
}

/** Asks the server for its time, three times; the quickest answer tells most. */
export async function syncClock(): Promise<void> {
  let best = Number.POSITIVE_INFINITY;
  for (let i = 0; i < 3; i++) {
    const sent = Date.now();
    const { now_ms } = await take(api.GET("/api/v1/now"));
    const took = Date.now() - sent;
    if (now_ms === undefined || took >= best) continue;
    best = took;
    measured = Math.round(now_ms + took / 2 - Date.now());
  }
  if (measured !== undefined) localStorage.setItem(KEPT, String(measured));
}
