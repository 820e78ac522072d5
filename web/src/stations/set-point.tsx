import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { api, type Station, type StationSays, take } from "../api/client";
import { queries } from "../api/queries";
import { QuantityInput } from "../quantity/quantity-input";
import { useUnits } from "../quantity/units";
import css from "./stations.module.css";

export const SPEAKS = { modbus: "registers, Modbus TCP", lines: "lines of text, TCP" };

export function SetPoint({ station, says }: { station: Station; says?: StationSays }) {
  const { show } = useUnits();
  const [wanted, setWanted] = useState<number | null>(says?.set_value ?? null);
  const client = useQueryClient();
  const send = useMutation({
    mutationFn: (temperature_c: number) =>
      take(
        api.PUT("/api/v1/stations/{id}/set-point", {
          params: { path: { id: station.id } },
          body: { temperature_c },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: queries.says.queryKey }),
  });
  const callBack = useMutation({
    mutationFn: (temperature_c: number) =>
      take(
        api.DELETE("/api/v1/stations/{id}/set-point", {
          params: { path: { id: station.id } },
          body: { temperature_c },
        }),
      ),
    onSettled: () => client.invalidateQueries({ queryKey: queries.says.queryKey }),
  });
  const pending = says?.wanted_c ?? null;
  const dropped = says?.dropped_c ?? null;
  return (
    <div className={`row-of ${css["set-point"]}`}>
      <QuantityInput
        label="Set point"
        kind="temperature"
        value={wanted}
        range={[0, 1300]}
        onChange={setWanted}
      />
      <Button
        variant="outline-primary"
        disabled={wanted === null || send.isPending}
        onClick={() => wanted !== null && send.mutate(wanted)}
      >
        Send set point
      </Button>
      <span className={(send.error ?? callBack.error) ? "wrong" : "soft"} role="status">
        {(send.error ?? callBack.error)?.message ??
          (pending !== null
            ? `${show("temperature", pending)} is on its way; what is not taken within a minute is dropped.`
            : dropped !== null
              ? `${show("temperature", dropped)} was dropped: the device did not take it within a minute. Send it again when it is on.`
              : "")}
      </span>
      {pending !== null && (
        <Button variant="link" onClick={() => callBack.mutate(pending)}>
          Call it back
        </Button>
      )}
      <p className="caution">
        Heating from afar: only with somebody in the shop, nothing on the kiln that burns, and its
        own over-temperature cut-out in order.
      </p>
    </div>
  );
}
