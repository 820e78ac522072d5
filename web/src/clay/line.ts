/** A line along a blade: mm from the heel, mm above the edge. */
export type Place = [number, number];

/** The coarser of two places a brush went is left out: a stroke needs no more. */
export function thinned(points: Place[]): Place[] {
  const kept: Place[] = [];
  for (const p of points) {
    const before = kept.at(-1);
    if (!before || Math.hypot(p[0] - before[0], p[1] - before[1]) >= 1.2) kept.push(p);
  }
  const step = Math.ceil(kept.length / 190);
  return kept.filter((_, i) => i % step === 0 || i === kept.length - 1);
}

/** A drawn line put into the one that was there: it replaces what lies between its ends. */
export function redrawn(
  wanted: Place[],
  drawn: Place[],
  edge: (x: number) => number | undefined,
): Place[] {
  const above = drawn
    .flatMap(([x, y]): Place[] => {
      const e = edge(x);
      return e === undefined ? [] : [[Math.round(x * 10) / 10, Math.max(0.5, y - e)]];
    })
    .sort((a, b) => a[0] - b[0]);
  const spaced: Place[] = [];
  for (const p of above) {
    const before = spaced.at(-1);
    if (!before || p[0] - before[0] >= 3) spaced.push([p[0], Math.round(p[1] * 10) / 10]);
  }
  const [from, to] = [spaced[0]?.[0] ?? 0, spaced.at(-1)?.[0] ?? 0];
  const kept = wanted.filter(([x]) => x < from - 2 || x > to + 2);
  return [...kept, ...spaced].sort((a, b) => a[0] - b[0]).slice(0, 200);
}

/** Height of a line at x, mm. */
export function heightAt(line: Place[], x: number): number | undefined {
  const i = line.findIndex((p) => p[0] >= x);
  const [b, a] = [line[i], line[i - 1]];
  if (!b) return line.at(-1)?.[1];
  if (!a) return b[1];
  return a[1] + ((b[1] - a[1]) * (x - a[0])) / (b[0] - a[0]);
}

/** Shares of the length where the wanted line is set by numbers. */
export const SET_AT = { heel: 0.04, middle: 0.5, tip: 0.94 } as const;

/** A line bent to a height at a share of the length: most where it is set. Without a line, `from` is one. */
export function bent(
  wanted: Place[],
  at: { share: number; height: number; length: number; from: number },
): Place[] {
  const { share, height, length, from } = at;
  const x = share * length;
  const places =
    wanted.length > 2
      ? wanted
      : Object.values(SET_AT).map((s): Place => [s * length, heightAt(wanted, s * length) ?? from]);
  const reach = 0.3 * length;
  const by = height - (heightAt(places, x) ?? height);
  return places.map(([px, ph]): Place => {
    const weight = Math.max(0, 1 - Math.abs(px - x) / reach);
    return [px, Math.max(0.5, Math.round((ph + by * weight) * 10) / 10)];
  });
}

/** How far a line lies off the wanted one, root mean square, mm; only where one is wanted. */
export function offBy(line: Place[], wanted: Place[]): number | undefined {
  const [first, last] = [wanted[0], wanted.at(-1)];
  if (!first || !last) return undefined;
  const near = line.filter(([x]) => x >= first[0] - 1 && x <= last[0] + 1);
  if (near.length === 0) return undefined;
  const sum = near.reduce((s, [x, h]) => s + (h - (heightAt(wanted, x) ?? h)) ** 2, 0);
  return Math.sqrt(sum / near.length);
}
