/** Element, smallest and largest percent; as the core has them. */
export const ELEMENTS: [string, number, number][] = [
  ["C", 0.05, 2.5],
  ["Si", 0, 3],
  ["Mn", 0, 3],
  ["Cr", 0, 20],
  ["Ni", 0, 5],
  ["Mo", 0, 10],
  ["W", 0, 20],
  ["V", 0, 15],
  ["N", 0, 1],
  ["Co", 0, 13],
  ["Nb", 0, 3],
  ["P", 0, 0.2],
  ["S", 0, 0.4],
];

/** Percents as typed; empty is none. */
export function readMeasured(written: Record<string, string>): {
  analysis: Record<string, number>;
  errors: Record<string, string>;
} {
  const analysis: Record<string, number> = {};
  const errors: Record<string, string> = {};
  for (const [symbol, low, high] of ELEMENTS) {
    const text = (written[symbol] ?? "").trim().replace(",", ".").replace(/\s*%$/, "");
    if (text === "") continue;
    const value = Number(text);
    if (!Number.isFinite(value)) errors[symbol] = "Not a number.";
    else if (value < low || value > high) errors[symbol] = `${low} to ${high} %`;
    else analysis[symbol] = value;
  }
  return { analysis, errors };
}

/** A whole analysis as typed: of it carbon is needed. */
export function readAnalysis(written: Record<string, string>) {
  const read = readMeasured(written);
  if (read.analysis.C === undefined && !read.errors.C) read.errors.C = "Carbon is needed.";
  return read;
}
