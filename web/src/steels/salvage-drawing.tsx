import type { Salvage } from "../api/client";

/** Our own line drawings of what a piece was, 48 by 20. */
const LINES: Record<Salvage, string> = {
  file: "M2 10h7l2-4h33l2 4-2 4H11l-2-4M14 6l4 8M20 6l4 8M26 6l4 8M32 6l4 8M38 6l4 8",
  leaf_spring: "M2 6q22 18 44 0M2 9q22 18 44 0M10 13q14 7 28 0",
  coil_spring: "M4 4l8 12 6-12 6 12 6-12 6 12 8-12",
  bearing_ring: "M24 1a9 9 0 1 0 .1 0M24 5a5 5 0 1 0 .1 0",
  saw_plate: "M2 4h44v8l-3 4-3-4-3 4-3-4-3 4-3-4-3 4-3-4-3 4-3-4-3 4-3-4-3 4-3-4-3 4-2-4V4",
  plane_iron: "M8 3h30q6 7 0 14H8zM16 10h14M12 3v14",
  axle: "M2 7h8V4h4v3h20V4h4v3h8v6h-8v3h-4v-3H14v3h-4v-3H2z",
  rail: "M16 2h16v5l-6 2v5l10 2v2H12v-2l10-2V9l-6-2z",
  unknown_bar: "M4 6h36l4 3v6H8l-4-3zM4 6l4 3h36M8 9v6",
};

export function SalvageDrawing({ was }: { was: Salvage }) {
  return (
    <svg viewBox="0 0 48 20" width="48" height="20" aria-hidden="true">
      <path d={LINES[was]} fill="none" stroke="currentColor" strokeWidth="1.2" />
    </svg>
  );
}
