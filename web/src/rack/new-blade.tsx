import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { useNavigate } from "react-router";
import { v7 as uuid } from "uuid";
import { ApiError, api, take } from "../api/client";
import { changed } from "../api/live";
import { useBars, useStations, useSteels } from "../api/queries";
import { Choice } from "../fields/choice";
import { Notice } from "../fields/notice";
import { QuantityInput } from "../quantity/quantity-input";
import { SteelByName } from "../steels/by-name";
import { useSteelOptions } from "../steels/steel-options";
import { capital, MEDIA, PURPOSE_TARGETS, PURPOSES, SHAPE_SIZES, SHAPES } from "../words/names";
import css from "./rack.module.css";

/** From nothing to a plan: steel, shape, length, thickness, what for, where it is heated, what into. */
export function NewBlade() {
  const client = useQueryClient();
  const navigate = useNavigate();
  const steels = useSteelOptions();
  const table = useSteels();
  const stations = useStations();
  const fires = (stations.data ?? []).filter((s) => s.kind === "kiln" || s.kind === "forge");
  const [steel, setSteel] = useState("1084");
  const [shape, setShape] = useState("plain");
  const [length, setLength] = useState(150);
  const [spine, setSpine] = useState(3.5);
  const [purpose, setPurpose] = useState("all_round");
  const [fire, setFire] = useState("");
  const [medium, setMedium] = useState("");
  // A bar in stock stands among the steels: it brings its own.
  const bars = (useBars().data ?? []).filter((b) => b.size.left_mm > 0);
  const bar = bars.find((b) => b.id === steel);
  const suits = table.data?.find((s) => s.key === (bar?.steel ?? steel))?.media ?? [];
  const heated: Record<string, string> =
    fires.length > 0
      ? Object.fromEntries(fires.map((f) => [f.id, f.name]))
      : { "new:kiln": "in a kiln", "new:forge": "in a forge" };
  const firstFire = Object.keys(heated)[0] ?? "";
  const make = useMutation({
    mutationFn: async () => {
      let fire_id = fire || firstFire;
      if (fire_id.startsWith("new:")) {
        const kind = fire_id.slice(4);
        const made = await take(
          api.POST("/api/v1/stations", { body: { id: uuid(), kind, name: capital(kind) } }),
        );
        fire_id = made.id;
      }
      const [usualLength, usualWidth] = SHAPE_SIZES[shape] ?? [150, 26, 3.5];
      const [low, high] = PURPOSE_TARGETS[purpose] ?? [59, 61];
      return take(
        api.POST("/api/v1/blades", {
          body: {
            id: uuid(),
            ...(bar ? { bar_id: bar.id } : { steel }),
            shape,
            length_mm: length,
            // The width that goes with this length in the shape it starts from.
            width_mm: Math.min(300, Math.max(10, Math.round((usualWidth * length) / usualLength))),
            spine_mm: spine,
            edge_mm: Math.min(0.8, spine),
            purpose,
            target_low_hrc: low,
            target_high_hrc: high,
            medium: medium || undefined,
            fire_id,
          },
        }),
      );
    },
    onSuccess: (blade) => {
      changed(client, "blade", blade.id);
      // The fire may be new as well.
      changed(client, "station", "");
      navigate(`/blades/${blade.id}/plan`);
    },
  });
  const fields = make.error instanceof ApiError ? make.error.fields : {};
  return (
    <form
      className={css["new-blade"]}
      aria-label="New blade"
      onSubmit={(e) => {
        e.preventDefault();
        make.mutate();
      }}
    >
      <Choice
        label="Steel"
        value={steel}
        options={{
          ...steels,
          ...Object.fromEntries(bars.map((b) => [b.id, `${b.name} (bar in stock)`])),
        }}
        error={fields.steel ?? fields.bar_id}
        onChange={(to) => {
          setSteel(to);
          const chosen = bars.find((b) => b.id === to);
          // No blade is thicker than its bar.
          if (chosen && chosen.size.thickness_mm < spine) setSpine(chosen.size.thickness_mm);
        }}
      />
      <Choice
        label="Shape"
        value={shape}
        options={SHAPES}
        error={fields.shape}
        onChange={(s) => {
          setShape(s);
          const [l, , t] = SHAPE_SIZES[s] ?? [150, 26, 3.5];
          setLength(l);
          setSpine(t);
        }}
      />
      <QuantityInput
        label="Length"
        kind="length"
        value={length}
        range={[10, 1000]}
        error={fields.length_mm}
        onChange={setLength}
      />
      <QuantityInput
        label="Spine"
        kind="length"
        value={spine}
        range={[0.5, 25]}
        error={fields.spine_mm}
        onChange={setSpine}
      />
      <Choice label="For" value={purpose} options={PURPOSES} onChange={setPurpose} />
      <Choice
        label="Heated"
        value={fire || firstFire}
        options={heated}
        error={fields.fire_id}
        onChange={setFire}
      />
      <Choice
        label="Quenched in"
        value={medium}
        placeholder={`what suits it${suits[0] ? `: ${MEDIA[suits[0] as keyof typeof MEDIA]}` : ""}`}
        options={MEDIA}
        error={fields.medium}
        onChange={setMedium}
      />
      <Button type="submit" disabled={make.isPending}>
        Plan it
      </Button>
      <div className={css["whole-row"]}>
        <SteelByName onChoose={setSteel} />
      </div>
      {make.error && Object.keys(fields).length === 0 && <Notice>{make.error.message}</Notice>}
    </form>
  );
}
