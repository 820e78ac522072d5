import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { ApiError, api, type Blade, take } from "../api/client";
import { queries, usePhotos } from "../api/queries";
import css from "./readings.module.css";
import { useSendPhoto } from "./send-photo";
import { pictureOf, Tracing } from "./tracing";

/** Photographs of the blade; the hamon can be traced on any. */
export function Photos({ blade }: { blade: Blade }) {
  const client = useQueryClient();
  const photos = usePhotos(blade.id);
  const [open, setOpen] = useState<string | null>(null);
  const send = useSendPhoto(blade.id, setOpen);
  const drop = useMutation({
    mutationFn: (photo: string) =>
      take(
        api.DELETE("/api/v1/blades/{id}/photos/{photo}", {
          params: { path: { id: blade.id, photo } },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: queries.photos(blade.id).queryKey }),
  });
  const problem = send.error instanceof ApiError ? send.error : null;
  const chosen = photos.data?.find((p) => p.id === open);
  return (
    <section className="photos">
      <h2>Photographs</h2>
      <Form.Group controlId="photo" className="field">
        <Form.Label>
          A JPEG or PNG, square to the flat; place and device are taken out of it
        </Form.Label>
        <Form.Control
          type="file"
          accept="image/jpeg,image/png"
          onChange={(e) => {
            const input = e.target as HTMLInputElement;
            const file = input.files?.[0];
            if (file) send.mutate(file);
            input.value = "";
          }}
        />
      </Form.Group>
      {send.isPending && <p role="status">Sending…</p>}
      {send.error && (
        <p className="wrong" role="alert">
          {Object.values(problem?.fields ?? {})[0] ?? send.error.message}
        </p>
      )}
      {chosen && (
        <Tracing key={chosen.id} blade={blade} photo={chosen} onDone={() => setOpen(null)} />
      )}
      <ul className={css.thumbs}>
        {(photos.data ?? []).map((p) => (
          <li key={p.id}>
            <img src={pictureOf(blade.id, p)} alt="" loading="lazy" />
            <span className="soft">
              {new Date(p.taken_at).toLocaleDateString("en-GB", { dateStyle: "medium" })}
            </span>
            <Button variant="link" onClick={() => setOpen(p.id)}>
              Trace the hamon
            </Button>
            <Button variant="link" onClick={() => drop.mutate(p.id)}>
              Take out
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}
