import { INCH, type Units } from "../quantity/parse";

/** A place on the blade, mm: from the heel, and above the edge where that was said. */
export type Place = [x: number, y: number | null];

const per = (units: Units) => (units.length === "in" ? INCH : 1);
const digits = (units: Units) => (units.length === "in" ? 2 : 0);

/** Reads places written like `40 60/12`: from the heel, and above the edge after a stroke. */
export function readPlaces(text: string, units: Units): Place[] | null {
  const places: Place[] = [];
  for (const word of text
    .trim()
    .split(/[\s;]+/)
    .filter(Boolean)) {
    const parts = word.split("/").map((p) => Number(p.replace(",", ".")) * per(units));
    const [x, y] = parts;
    if (parts.length > 2 || !parts.every(Number.isFinite) || x === undefined) return null;
    places.push([x, y ?? null]);
  }
  return places;
}

/** A place as it is written, with one more digit above the edge. */
export function writePlace([x, y]: [number, number], units: Units): string {
  const at = (v: number, more: number) => (v / per(units)).toFixed(digits(units) + more);
  return `${at(x, 0)}/${at(y, 1)}`;
}
