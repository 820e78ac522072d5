import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { v7 as uuid } from "uuid";
import { ApiError, api, type Blade, type Finding, type FindingRow, take } from "../api/client";
import { useFindings } from "../api/queries";
import type { Units } from "../quantity/parse";
import { useUnits } from "../quantity/units";
import { Choice } from "./ready";

const KINDS = {
  line: "where the hamon sits",
  side: "how it bent sideways",
  crack: "cracked, or sound",
  file: "what the files said",
};
type Kind = keyof typeof KINDS;

/** What to write, and what is read from it. */
const HELP: Record<Exclude<Kind, "crack">, string> = {
  line: "Height above the edge: one number, or several from heel to tip at even steps.",
  side: "Sag straight from the quench, before straightening; 0 for straight.",
  file: "The file that skates and the one that bites, HRC: 60 65.",
};

/** Numbers as typed: with spaces between, decimal point or comma, in mm or inch. */
export function numbers(text: string, per: number): number[] | null {
  const all = text
    .trim()
    .split(/[\s;]+/)
    .filter((part) => part !== "")
    .map((part) => Number(part.replace(",", ".")) * per);
  return all.length > 0 && all.every(Number.isFinite) ? all : null;
}

/** The finding that was typed, or what is wrong with it. */
export function read(
  kind: Kind,
  text: string,
  cracked: boolean,
  stage: "as_quenched" | "tempered",
  length: number,
  units: Units,
): Finding | string {
  if (kind === "crack") return { kind, cracked };
  const all = numbers(text, kind !== "file" && units.length === "in" ? 25.4 : 1);
  if (!all) return HELP[kind];
  const [first = 0, second = 0] = all;
  if (kind === "side") return all.length === 1 ? { kind, sag_mm: first } : HELP.side;
  if (kind === "file") {
    return all.length === 2 ? { kind, stage, low_hrc: first, high_hrc: second } : HELP.file;
  }
  // Evenly along the blade, the ends left out.
  const places = all.map((height, i) => [((i + 0.5) / all.length) * length, height]);
  return { kind, places };
}

/** A finding in words. */
export function told(found: Finding, about: (mm: number) => string): string {
  switch (found.kind) {
    case "line":
      return `Hamon ${found.places.map((p) => about(p[1] ?? 0)).join(", ")} above the edge`;
    case "side":
      return found.sag_mm === 0
        ? "Straight from the quench"
        : `Bent ${about(found.sag_mm)} sideways`;
    case "crack":
      return found.cracked ? "Cracked" : "Looked for cracks: sound";
    case "file":
      return `Between ${found.low_hrc} and ${found.high_hrc} HRC by file, ${
        found.stage === "tempered" ? "tempered" : "as quenched"
      }`;
  }
}

/** Mean height of each line that counts, mm. */
export function lineHeights(all: FindingRow[]): number[] {
  return all.flatMap(({ found, withdrawn_at }) =>
    found.kind === "line" && !withdrawn_at
      ? [found.places.reduce((sum, p) => sum + (p[1] ?? 0), 0) / found.places.length]
      : [],
  );
}

/** What came of the blade besides tested hardness. */
export function Findings({ blade }: { blade: Blade }) {
  const client = useQueryClient();
  const { units, about } = useUnits();
  const findings = useFindings(blade.id);
  const [kind, setKind] = useState<Kind>("line");
  const [text, setText] = useState("");
  const [cracked, setCracked] = useState("no");
  const [stage, setStage] = useState("as_quenched");
  const [wrong, setWrong] = useState<string | null>(null);
  const keep = useMutation({
    mutationFn: (found: Finding) =>
      take(
        api.POST("/api/v1/blades/{id}/findings", {
          params: { path: { id: blade.id } },
          body: { id: uuid(), found },
        }),
      ),
    onSuccess: () => {
      setText("");
      client.invalidateQueries();
    },
  });
  const withdraw = useMutation({
    mutationFn: (finding: string) =>
      take(
        api.DELETE("/api/v1/blades/{id}/findings/{finding}", {
          params: { path: { id: blade.id, finding } },
        }),
      ),
    onSuccess: () => client.invalidateQueries(),
  });
  const problem = keep.error instanceof ApiError ? keep.error : null;
  const said = wrong ?? Object.values(problem?.fields ?? {})[0] ?? problem?.message;
  return (
    <section className="findings">
      <h2>What else came of it</h2>
      <form
        className="grid"
        aria-label="What else came of it"
        onSubmit={(e) => {
          e.preventDefault();
          const at = stage === "tempered" ? "tempered" : "as_quenched";
          const found = read(kind, text, cracked === "yes", at, blade.length_mm, units);
          setWrong(typeof found === "string" ? found : null);
          if (typeof found !== "string") keep.mutate(found);
        }}
      >
        <Choice
          label="Found"
          value={kind}
          options={KINDS}
          onChange={(k) => {
            setKind(k as Kind);
            setWrong(null);
            keep.reset();
          }}
        />
        {kind === "crack" ? (
          <Choice
            label="It cracked"
            value={cracked}
            options={{ no: "no, it is sound", yes: "yes" }}
            onChange={setCracked}
          />
        ) : (
          <Form.Group controlId="found" className="field">
            <Form.Label>
              {kind === "file" ? "Skates at, bites at, HRC" : `Measured, ${units.length}`}
            </Form.Label>
            <Form.Control
              className="num"
              inputMode="decimal"
              autoComplete="off"
              value={text}
              isInvalid={!!said}
              onChange={(e) => {
                setText(e.target.value);
                setWrong(null);
              }}
            />
          </Form.Group>
        )}
        {kind === "file" && (
          <Choice
            label="When"
            value={stage}
            options={{ as_quenched: "after the quench", tempered: "after the last temper" }}
            onChange={setStage}
          />
        )}
        <div className="wide row-of">
          <Button type="submit" disabled={keep.isPending}>
            Keep it
          </Button>
          <span className={said ? "wrong" : "soft"} role={said ? "alert" : undefined}>
            {said ?? (kind === "crack" ? "A sound blade teaches as well." : HELP[kind])}
          </span>
        </div>
      </form>
      <ul className="lines">
        {(findings.data ?? []).map((f) => (
          <li key={f.id} className={f.withdrawn_at ? "withdrawn" : ""}>
            <b>{told(f.found, about)}</b>{" "}
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
    </section>
  );
}
