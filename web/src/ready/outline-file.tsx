import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { ApiError, api, type OutlineRead, problemOf, take } from "../api/client";
import { Silhouette } from "../drawing/blade-drawing";
import { Options } from "../fields/options";
import { QuantityInput } from "../quantity/quantity-input";
import { useUnits } from "../quantity/units";
import css from "./ready.module.css";

type Unit = OutlineRead["unit"];
const UNITS: Record<Unit, string> = {
  mm: "millimetre",
  cm: "centimetre",
  in: "inch",
  px: "screen dot, 96 to the inch",
};

const MAX_BYTES = 1_000_000;

/** Brings an outline in from a drawing file: how it lies is seen before it is taken. */
export function OutlineFile({ onTake }: { onTake: (read: OutlineRead) => void }) {
  const { show } = useUnits();
  const [file, setFile] = useState<{ name: string; text: string } | null>(null);
  const [wrong, setWrong] = useState("");
  const [unit, setUnit] = useState<Unit | "">("");
  const [mirror, setMirror] = useState(false);
  const [upsideDown, setUpsideDown] = useState(false);
  const [which, setWhich] = useState(0);
  const [heel, setHeel] = useState<number | null>(null);
  const read = useQuery({
    queryKey: ["outline-file", file?.name, file?.text, unit, mirror, upsideDown, which, heel],
    enabled: !!file,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: ({ signal }) =>
      take(
        api.POST("/api/v1/outline/file", {
          signal,
          body: {
            text: file?.text ?? "",
            unit: unit === "" ? undefined : unit,
            mirror,
            upside_down: upsideDown,
            which,
            heel_mm: heel ?? undefined,
          },
        }),
      ),
  });
  const choose = async (chosen: File | undefined) => {
    setWrong("");
    setFile(null);
    setUnit("");
    setWhich(0);
    setHeel(null);
    if (!chosen) return;
    if (chosen.size > MAX_BYTES) {
      setWrong(`${chosen.name} is larger than 1 MB. The blade is as it was.`);
      return;
    }
    setFile({ name: chosen.name, text: await chosen.text() });
  };
  const fields = read.error instanceof ApiError ? read.error.fields : {};
  const found = read.error ? undefined : read.data;
  return (
    <div className={css["outline-file"]}>
      <Form.Group controlId="outline-file">
        <Form.Label>Outline from an SVG or DXF drawing</Form.Label>
        <Form.Control
          type="file"
          accept=".svg,.dxf,image/svg+xml,application/dxf,text/plain"
          onChange={(e) => choose((e.target as HTMLInputElement).files?.[0])}
        />
      </Form.Group>
      {wrong && <p className="wrong">{wrong}</p>}
      {read.error && (
        <p className="wrong" role="alert">
          {fields.text ??
            fields.which ??
            fields.heel_mm ??
            fields.outline ??
            fields.unit ??
            problemOf(read.error)}{" "}
          The blade is as it was.
        </p>
      )}
      {file && (
        <div className="tool-row">
          <Form.Group controlId="outline-unit" className="field">
            <Form.Label>Drawn in</Form.Label>
            <Form.Select value={unit} onChange={(e) => setUnit(e.target.value as Unit | "")}>
              <option value="">{found?.unit_known ? "as the file says" : "choose"}</option>
              <Options of={UNITS} />
            </Form.Select>
          </Form.Group>
          <Form.Check
            id="outline-mirror"
            label="Tip was drawn left"
            checked={mirror}
            onChange={(e) => setMirror(e.target.checked)}
          />
          <Form.Check
            id="outline-down"
            label="Edge was drawn up"
            checked={upsideDown}
            onChange={(e) => setUpsideDown(e.target.checked)}
          />
          {found && (
            <QuantityInput
              label="Tang"
              kind="length"
              value={Math.round(10 * (heel ?? found.heel_mm)) / 10}
              range={[0, 1000]}
              onChange={setHeel}
            />
          )}
          {found && found.loops > 1 && (
            <Form.Group controlId="outline-which" className="field">
              <Form.Label>Closed line</Form.Label>
              <Form.Select value={which} onChange={(e) => setWhich(Number(e.target.value))}>
                {Array.from({ length: Math.min(20, found.loops) }, (_, i) => i).map((i) => (
                  <option key={i} value={i}>
                    {i === 0 ? "the largest" : `number ${i + 1}`}
                  </option>
                ))}
              </Form.Select>
            </Form.Group>
          )}
        </div>
      )}
      {found && (
        <div className="row-of">
          <Silhouette
            outline={found.outline}
            scale={Math.min(1.4, 380 / (found.length_mm + found.heel_mm))}
          />
          <span>
            {show("length", Math.round(10 * found.length_mm) / 10)} long,{" "}
            {show("length", Math.round(10 * found.width_mm) / 10)} wide: tip right, edge down?
          </span>
          <Button
            onClick={() => {
              onTake(found);
              setFile(null);
            }}
          >
            Use this outline
          </Button>
        </div>
      )}
    </div>
  );
}
