import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Form } from "react-bootstrap";
import { ApiError, api, type ImportReport, take } from "../api/client";
import { Notice } from "../fields/notice";
import { fault } from "../words/faults";

/** What came of a file that was brought in, line by line: what was left out is named. */
export function brought({ blades, skipped, known, left_out }: ImportReport): string[] {
  const count = (n: number, one: string) => (n === 1 ? `1 ${one}` : `${n} ${one}s`);
  const listed = (all: string[]) => {
    const rest = all.length - NAMED;
    return `${all.slice(0, NAMED).join(", ")}${rest > 0 ? ` and ${rest} more` : ""}`;
  };
  const left = [
    left_out.photographs > 0 ? count(left_out.photographs, "photograph") : "",
    left_out.logs > 0 ? count(left_out.logs, "log") : "",
    left_out.methods ? count(left_out.methods, "older or retired method") : "",
  ].filter(Boolean);
  return [
    `${count(blades, "blade")} brought in.`,
    skipped.length > 0
      ? `Left alone, since the shop has blades of these marks: ${listed(skipped)}.`
      : "",
    known.length > 0
      ? `Already here under these names, and left as they are here: ${listed(known)}.`
      : "",
    left.length > 0
      ? `Not in the file, and still only where it came from: ${left.join(", ")}.`
      : "",
  ].filter(Boolean);
}

/** Most names that are listed. */
const NAMED = 40;

export function InAndOut({ bringsIn }: { bringsIn: boolean }) {
  const client = useQueryClient();
  const bring = useMutation({
    // The file goes as it lies on the disk: however large, it is never read into this page.
    mutationFn: (file: File) =>
      take(
        api.POST("/api/v1/import", {
          body: file as never,
          bodySerializer: (raw) => raw,
          headers: { "Content-Type": "application/json" },
        }),
      ),
    // Anything of the shop may have come with the file.
    onSuccess: () => client.invalidateQueries(),
  });
  const fields = bring.error instanceof ApiError ? bring.error.problem.fields : [];
  return (
    <section>
      <h2>In and out</h2>
      <p>
        <a className="btn btn-outline-primary" href="/api/v1/export" download="vatten-shop.json">
          Export the whole shop
        </a>
      </p>
      {bringsIn && (
        <Form.Group controlId="bring" className="field">
          <Form.Label>Bring in a file that Vatten wrote</Form.Label>
          <Form.Control
            type="file"
            accept="application/json,.json"
            onChange={(e) => {
              const file = (e.target as HTMLInputElement).files?.[0];
              if (file) bring.mutate(file);
            }}
          />
        </Form.Group>
      )}
      {bring.isPending && <p role="status">Reading it, and writing all of it or nothing…</p>}
      {bring.data && (
        <div role="status">
          {brought(bring.data).map((line) => (
            <p key={line}>{line}</p>
          ))}
        </div>
      )}
      {bring.error && (
        <Notice>
          <span>
            Nothing was stored. {bring.error.message}
            {fields?.slice(0, 6).map((f) => (
              <span key={f.field}>
                <br />
                <code>{f.field}</code>: {fault(f)}
              </span>
            ))}
          </span>
        </Notice>
      )}
    </section>
  );
}
