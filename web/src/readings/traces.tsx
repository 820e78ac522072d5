import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { ApiError, api, type Blade, type Firing, type LogColumns, take } from "../api/client";
import { queries, useTraces } from "../api/queries";
import { useUnits } from "../quantity/units";
import { logNote } from "../words/logs";
import css from "./readings.module.css";
import { TraceChart } from "./trace-chart";
import { Choose, type File, LARGEST } from "./trace-file";
import { Steps } from "./trace-steps";

/** Temperature traces of the newest firings against their plans, and bringing one in. */
export function Traces({ blade, firings }: { blade: Blade; firings: Firing[] }) {
  const { say } = useUnits();
  const client = useQueryClient();
  const traces = useTraces(blade.id);
  const [file, setFile] = useState<File | null>(null);
  const read = useMutation({
    mutationFn: async (asked: { file: File; columns?: LogColumns }) =>
      take(
        api.POST("/api/v1/blades/{id}/traces/read", {
          params: { path: { id: blade.id } },
          body: { name: asked.file.name, text: asked.file.text, columns: asked.columns },
        }),
      ),
  });
  const withdraw = useMutation({
    mutationFn: (trace: string) =>
      take(
        api.DELETE("/api/v1/blades/{id}/traces/{trace}", {
          params: { path: { id: blade.id, trace } },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: queries.traces(blade.id).queryKey }),
  });
  const [tooLarge, setTooLarge] = useState<string | null>(null);
  const open = async (picked: globalThis.File) => {
    setTooLarge(null);
    if (picked.size > LARGEST) {
      setFile(null);
      setTooLarge(`${picked.name} is larger than 4 MB. Nothing was sent.`);
      return;
    }
    const next = { name: picked.name.slice(0, 120), text: await picked.text() };
    setFile(next);
    read.mutate({ file: next });
  };
  const error = read.error instanceof ApiError ? read.error : null;
  return (
    <section className={css.traces}>
      <h2>What the thermocouple said</h2>
      {(traces.data ?? []).map((t) => {
        const firing = firings.find((f) => f.id === t.firing_id);
        return (
          <article key={`${t.id} ${t.firing_id}`}>
            <div className="row-of">
              <b>{t.name}</b>
              <span className="soft">
                {t.from_file ? "from a file" : "from the connected station"}
                {t.corrected ? ", corrected by its last check" : ""}
              </span>
              {t.from_file && (
                <>
                  <a href={`/api/v1/blades/${blade.id}/traces/${t.id}/file`} download={t.name}>
                    The file as it was
                  </a>
                  <Button variant="link" onClick={() => withdraw.mutate(t.id)}>
                    Withdraw
                  </Button>
                </>
              )}
            </div>
            <TraceChart trace={t} />
            {t.notes.map((n) => (
              <p key={logNote(n, say)} className="soft">
                {logNote(n, say)}
              </p>
            ))}
            {firing && <Steps trace={t} firing={firing} />}
          </article>
        );
      })}
      <Form.Group controlId="log-file" className="field">
        <Form.Label>Bring in a log, CSV or text</Form.Label>
        <Form.Control
          type="file"
          accept=".csv,.txt,.tsv,text/csv,text/plain"
          onChange={(e) => {
            const input = e.target as HTMLInputElement;
            const picked = input.files?.[0];
            if (picked) open(picked);
            input.value = "";
          }}
        />
      </Form.Group>
      {(tooLarge || read.error) && (
        <p className="wrong" role="alert">
          {tooLarge ?? Object.values(error?.fields ?? {})[0] ?? read.error?.message}
        </p>
      )}
      {file && read.data && (
        <Choose
          file={file}
          read={read.data}
          blade={blade}
          onColumns={(columns) => read.mutate({ file, columns })}
          onDone={() => {
            setFile(null);
            read.reset();
          }}
        />
      )}
    </section>
  );
}
