import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button } from "react-bootstrap";
import { api, type Blade, type FindingRow, take } from "../api/client";
import { changed } from "../api/live";
import { useFindings } from "../api/queries";
import { useUnits } from "../quantity/units";
import { told } from "./finding-kinds";

/** What a burn did, in words. */
export function burned(burn: FindingRow["burn"], about: (mm: number) => string): string {
  if (!burn) return "";
  if (burn.lost_hrc < 0.05) return "No harm: cooler than its temper.";
  return `About ${burn.lost_hrc.toFixed(1)} HRC lost, ${about(burn.depth_mm)} deep. Grind it off cool.`;
}

/** What was found, each to be withdrawn. */
export function FindingList({ blade }: { blade: Blade }) {
  const client = useQueryClient();
  const { about } = useUnits();
  const findings = useFindings(blade.id);
  const withdraw = useMutation({
    mutationFn: (finding: string) =>
      take(
        api.DELETE("/api/v1/blades/{id}/findings/{finding}", {
          params: { path: { id: blade.id, finding } },
        }),
      ),
    onSuccess: () => changed(client, "finding", "", blade.id),
  });
  return (
    <ul className="lines">
      {(findings.data ?? []).map((f) => (
        <li key={f.id} className={f.withdrawn_at ? "withdrawn" : ""}>
          <b>{told(f.found, about)}</b> <span>{burned(f.burn, about)}</span>{" "}
          <span className="soft">
            {new Date(f.found_at).toLocaleDateString("en-GB", { dateStyle: "medium" })}
            {f.note ? `. “${f.note}”` : ""}
            {f.withdrawn_at ? ". Withdrawn: kept, not learned from." : ""}
          </span>
          {!f.withdrawn_at && (
            <Button variant="link" onClick={() => withdraw.mutate(f.id)}>
              Withdraw
            </Button>
          )}
        </li>
      ))}
    </ul>
  );
}
