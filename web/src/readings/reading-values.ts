export const STAGES: Record<string, string> = {
  tempered: "after the last temper",
  as_quenched: "after the quench, untempered",
};

/** Reads values separated by spaces, commas before a space, semicolons or slashes. */
export function readValues(text: string): { values: number[]; wrong: string | null } {
  const words = text
    .trim()
    .split(/[\s;/]+|,\s+/)
    .filter(Boolean);
  const values = words.map((w) => Number(w.replace(",", ".")));
  const bad = words.find((_, i) => !Number.isFinite(values[i]));
  if (words.length === 0)
    return { values: [], wrong: "At least one reading is needed; three or more are better." };
  if (bad) return { values: [], wrong: `“${bad}” is no number. Write them like 61.5 62 61.` };
  const out = values.find((v) => v < 0 || v > 70);
  if (out !== undefined)
    return { values: [], wrong: `${out} HRC is not possible. Allowed: 0 to 70 HRC.` };
  return { values, wrong: null };
}
