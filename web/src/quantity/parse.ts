/** What people write for a quantity, read into the API's unit: °C, mm, seconds, HRC, percent. */
export type Kind = "temperature" | "length" | "time" | "hardness" | "percent";

export interface Units {
  temperature: "c" | "f";
  length: "mm" | "in";
}

export const toF = (c: number) => (c * 9) / 5 + 32;
export const toC = (f: number) => ((f - 32) * 5) / 9;
export const INCH = 25.4;

const NUMBER = /^([+\-−]?\d+(?:[.,]\d+)?|[+\-−]?[.,]\d+)/;

function number(text: string): [number, string] | null {
  const mixed = /^(\d+)[ -](\d+)\/(\d+)(.*)$/.exec(text);
  if (mixed) {
    const [, whole, top, bottom, rest] = mixed;
    if (Number(bottom) === 0) return null;
    return [Number(whole) + Number(top) / Number(bottom), (rest ?? "").trim()];
  }
  const fraction = /^(\d+)\/(\d+)(.*)$/.exec(text);
  if (fraction) {
    const [, top, bottom, rest] = fraction;
    if (Number(bottom) === 0) return null;
    // A bare fraction is always inches: nobody writes 3/16 mm.
    const unit = (rest ?? "").trim();
    return [Number(top) / Number(bottom), unit === "" ? "in" : unit];
  }
  const found = NUMBER.exec(text);
  if (!found?.[0]) return null;
  const value = Number(found[0].replace(",", ".").replace("−", "-"));
  return [value, text.slice(found[0].length).trim()];
}

function temperature(value: number, unit: string, units: Units): number | null {
  const u = unit.replace("°", "").trim() || units.temperature;
  if (u === "c") return value;
  if (u === "f") return toC(value);
  return null;
}

function length(value: number, unit: string, units: Units): number | null {
  switch (unit || units.length) {
    case "mm":
      return value;
    case "cm":
      return value * 10;
    case "in":
    case "inch":
    case "inches":
    case '"':
    case "″":
      return value * INCH;
    case "thou":
    case "mil":
      return value * 0.0254;
    default:
      return null;
  }
}

const SECONDS: Record<string, number> = {
  s: 1,
  sec: 1,
  seconds: 1,
  m: 60,
  min: 60,
  mins: 60,
  minutes: 60,
  h: 3600,
  hr: 3600,
  hour: 3600,
  hours: 3600,
  d: 86400,
  day: 86400,
  days: 86400,
};

function time(text: string): number | null {
  const colon = /^(\d+):([0-5]\d)(?::([0-5]\d))?$/.exec(text);
  if (colon) {
    const [, a, b, c] = colon.map(Number) as [number, number, number, number];
    // 1:30 is an hour and a half; with seconds it is h:mm:ss.
    return a * 3600 + b * 60 + (Number.isNaN(c) || c === undefined ? 0 : c);
  }
  let rest = text;
  let sum = 0;
  let parts = 0;
  while (rest !== "") {
    const found = /^(\d+(?:[.,]\d+)?)\s*([a-z]*)\s*/.exec(rest);
    if (!found?.[0]) return null;
    const unit = found[2] ?? "";
    // A bare number is minutes, as smiths say it; after hours it is minutes too.
    const factor = unit === "" ? 60 : SECONDS[unit];
    if (factor === undefined) return null;
    sum += Number((found[1] ?? "").replace(",", ".")) * factor;
    rest = rest.slice(found[0].length);
    parts += 1;
  }
  return parts > 0 ? sum : null;
}

/** The value in the API's unit, or null when it cannot be read. */
export function parse(kind: Kind, written: string, units: Units): number | null {
  const text = written.trim().toLowerCase();
  if (text === "") return null;
  if (kind === "time") return time(text);
  const found = number(text);
  if (!found || !Number.isFinite(found[0])) return null;
  const [value, unit] = found;
  if (kind === "temperature") return temperature(value, unit, units);
  if (kind === "length") return length(value, unit, units);
  if (kind === "hardness") return unit === "" || unit === "hrc" ? value : null;
  return unit === "" || unit === "%" ? value : null;
}

/** A whole number with a true minus sign. */
const minus = (value: number) => String(value).replace("-", "−");

const trim = (value: number, digits: number) => String(Number(value.toFixed(digits)));

/** A value of the API in the user's unit, with its unit. */
export function show(kind: Kind, value: number, units: Units): string {
  switch (kind) {
    case "temperature":
      return units.temperature === "f"
        ? `${minus(Math.round(toF(value)))} °F`
        : `${minus(Math.round(value))} °C`;
    case "length":
      return units.length === "in" ? `${trim(value / INCH, 3)} in` : `${trim(value, 2)} mm`;
    case "time":
      return showTime(value);
    case "hardness":
      return `${trim(value, 1)} HRC`;
    case "percent":
      return `${trim(value, 2)} %`;
  }
}

/** A computed length: no more digits than it deserves. */
export function showAbout(mm: number, units: Units): string {
  return units.length === "in" ? `${(mm / INCH).toFixed(2)} in` : `${mm.toFixed(1)} mm`;
}

function showTime(seconds: number): string {
  if (seconds < 120) return `${trim(seconds, 1)} s`;
  if (seconds < 7200) {
    const rest = Math.round(seconds % 60);
    const minutes = Math.floor(seconds / 60);
    return rest === 0 ? `${minutes} min` : `${minutes} min ${rest} s`;
  }
  const minutes = Math.round((seconds % 3600) / 60);
  const hours = Math.floor(seconds / 3600);
  return minutes === 0 ? `${hours} h` : `${hours} h ${minutes} min`;
}

/** The next value up (+1) or down (−1): 5 °C or 10 °F, five times that when `big`. */
export function nudged(kind: Kind, value: number, way: number, big: boolean, units: Units): number {
  const times = big ? 5 : 1;
  if (kind === "temperature") {
    if (units.temperature === "f") {
      const f = Math.round(toF(value));
      return toC(f + way * 10 * times);
    }
    return value + way * 5 * times;
  }
  if (kind === "time") {
    const step = value < 20 ? 0.5 : value < 120 ? 5 : value < 1800 ? 60 : value < 7200 ? 300 : 900;
    return Math.max(0, value + way * step * times);
  }
  if (kind === "length") {
    return units.length === "in"
      ? value + way * 0.005 * INCH * times
      : Number((value + way * 0.1 * times).toFixed(3));
  }
  return value + way * (kind === "hardness" ? 0.5 : 0.01) * times;
}

/** A difference of temperatures, °C, with its sign. */
export function showDegrees(c: number, units: Units): string {
  const value = units.temperature === "f" ? c * 1.8 : c;
  if (Math.abs(value) < 0.05) return `0 °${units.temperature.toUpperCase()}`;
  const text = Math.abs(value).toFixed(Math.abs(value) < 10 ? 1 : 0);
  return `${value < 0 ? "−" : "+"}${text} °${units.temperature.toUpperCase()}`;
}
