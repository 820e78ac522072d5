import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { ApiError, type Blade, type Firing } from "../api/client";
import { queries } from "../api/queries";
import { ReadingFields, useReadingForm } from "../readings/reading-form";
import { useSendPhoto } from "../readings/send-photo";
import css from "./firing.module.css";

function Fields({ blade }: { blade: Blade }) {
  return <ReadingFields reading={useReadingForm(blade)} />;
}

/** A photograph, from the camera where there is one. */
function Photograph({ bladeId }: { bladeId: string }) {
  const [sent, setSent] = useState(0);
  const send = useSendPhoto(bladeId, () => setSent((n) => n + 1));
  const problem = send.error instanceof ApiError ? send.error : null;
  return (
    <div>
      <label className={css.photograph}>
        Take a photograph, square to the flat
        <input
          type="file"
          accept="image/jpeg,image/png"
          capture="environment"
          onChange={(e) => {
            const file = e.target.files?.[0];
            if (file) send.mutate(file);
            e.target.value = "";
          }}
        />
      </label>
      <p role="status">
        {send.isPending
          ? "Sending…"
          : sent > 0
            ? `${sent === 1 ? "One photograph is" : `${sent} photographs are`} kept; the line is traced under Readings.`
            : ""}
      </p>
      {send.error && (
        <p role="alert">
          Not kept: {Object.values(problem?.fields ?? {})[0] ?? send.error.message}
        </p>
      )}
    </div>
  );
}

/** Readings and a photograph of the blade at hand, without leaving the fire. They want the server. */
export function ReadHere({ firing }: { firing: Firing }) {
  const blade = useQuery(queries.blade(firing.blade_id));
  return (
    <section className={css["read-here"]} aria-label="Readings and photograph">
      {blade.data && firing.state.quenched && <Fields blade={blade.data} />}
      {blade.error && !blade.data && (
        <p role="status">
          Readings and photographs want the server. A file is found without it; write the rest down.
        </p>
      )}
      <Photograph bladeId={firing.blade_id} />
    </section>
  );
}
