import type { LadderRung, LadderView } from "../api/client";
import { WrongFields } from "../fields/saved-form";
import { readValues } from "../readings/reading-values";

/** A coupon as it is written. */
export interface RungDraft {
  temperature_c: number;
  readings: string;
  skated_hrc: number | null;
  bit_hrc: number | null;
  file: "" | "skates" | "bites";
  grain: number;
}

export const blank = (temperature_c: number): RungDraft => ({
  temperature_c,
  readings: "",
  skated_hrc: null,
  bit_hrc: null,
  file: "",
  grain: 0,
});

/** The coupons of a ladder, to be written on. */
export const drafts = (ladder: LadderView): RungDraft[] =>
  ladder.rungs.map((r) => ({
    temperature_c: r.temperature_c,
    readings: (r.values_hrc ?? []).join(" "),
    skated_hrc: r.skated_hrc ?? null,
    bit_hrc: r.bit_hrc ?? null,
    file: r.file ?? "",
    grain: r.grain ?? 0,
  }));

/** What was written, as the server takes it.
 * @throws WrongFields where readings cannot be read. */
export function rungsOf(all: RungDraft[]): LadderRung[] {
  const wrong: Record<string, string> = {};
  const rungs = all.map((draft, i): LadderRung => {
    const read =
      draft.readings.trim() === "" ? { values: [], wrong: null } : readValues(draft.readings);
    if (read.wrong) wrong[`rungs[${i}].readings`] = read.wrong;
    return {
      temperature_c: draft.temperature_c,
      values_hrc: read.values,
      skated_hrc: draft.skated_hrc,
      bit_hrc: draft.bit_hrc,
      file: draft.file || null,
      grain: draft.grain || null,
    };
  });
  if (Object.keys(wrong).length > 0) throw new WrongFields(wrong);
  return rungs;
}

/** The middle of what was read of a coupon, HRC. */
export function middle(rung: LadderRung): number | null {
  const values = rung.values_hrc ?? [];
  if (values.length > 0) return values.reduce((a, b) => a + b, 0) / values.length;
  if (rung.skated_hrc != null && rung.bit_hrc != null) return (rung.skated_hrc + rung.bit_hrc) / 2;
  return null;
}

/** How the coupons are read, by what is written of them. */
export type ReadBy = "tester" | "set" | "file";

export function readBy(ladder: LadderView): ReadBy {
  if (ladder.rungs.some((r) => r.skated_hrc != null || r.bit_hrc != null)) return "set";
  if (ladder.rungs.some((r) => r.file != null && (r.values_hrc ?? []).length === 0)) return "file";
  return "tester";
}
