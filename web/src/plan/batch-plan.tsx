import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "react-bootstrap";
import { batches } from "../api/batch-queries";
import { api, take } from "../api/client";
import { useRack } from "../api/queries";
import { plural } from "../words/quantities";

/** Gives this plan to the others of the batch. */
export function BatchPlan({ bladeId }: { bladeId: string }) {
  const client = useQueryClient();
  const rack = useRack();
  const { data } = useQuery(batches);
  const give = useMutation({
    mutationFn: () =>
      take(api.POST("/api/v1/blades/{id}/plan/batch", { params: { path: { id: bladeId } } })),
    onSuccess: () => {
      client.invalidateQueries({ queryKey: ["plan"] });
      client.invalidateQueries({ queryKey: ["day"] });
    },
  });
  const others = data?.find((b) => b.blade_ids.includes(bladeId))?.blade_ids.length ?? 0;
  if (others < 2) return null;
  const marks = (ids: string[]) =>
    ids.map((id) => rack.data?.find((b) => b.id === id)?.mark ?? "one").join(", ");
  return (
    <>
      <Button variant="link" disabled={give.isPending} onClick={() => give.mutate()}>
        Same plan for the {plural(others - 1, "other", "others")} of the batch
      </Button>
      {give.data && (
        <span role="status" className="soft">
          {give.data.planned.length > 0 && `${marks(give.data.planned)} have it.`}
          {give.data.kept.length > 0 && ` ${marks(give.data.kept)} keep their own.`}
        </span>
      )}
      {give.error && <span className="wrong">{give.error.message}</span>}
    </>
  );
}
