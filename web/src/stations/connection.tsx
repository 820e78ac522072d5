import { useState } from "react";
import { Button } from "react-bootstrap";
import type { Station, StationSays } from "../api/client";
import { useUnits } from "../quantity/units";
import { ConnectionForm } from "./connection-form";
import { inWords } from "./says";
import { SetPoint } from "./set-point";

/** How a station is reached, and what it says. */
export function Connection(props: { station: Station; says?: StationSays; now: number }) {
  const { station, says } = props;
  const { show } = useUnits();
  const [open, setOpen] = useState(false);
  if (!station.scale) return null;
  const modbus = station.device?.speaks === "modbus" ? station.device.map : undefined;
  return (
    <section className="connection">
      <h3>Connection</h3>
      {station.device ? (
        <p>
          At {station.device.host}, port {station.device.port}:{" "}
          <b className="num">{says ? inWords(says, station.kind, props.now, show) : "waiting"}</b>
          {says?.really !== null &&
            says?.really !== undefined &&
            says.value !== null &&
            says.value !== says.really && (
              <span className="soft">
                {" "}
                (really{" "}
                {station.kind === "tester"
                  ? `${says.really.toFixed(1)} HRC`
                  : show("temperature", says.really)}{" "}
                by its last check)
              </span>
            )}
        </p>
      ) : (
        <p className="soft">Not connected: what it shows is written down by hand.</p>
      )}
      {modbus?.set_point && <SetPoint key={station.id} station={station} says={says} />}
      {open ? (
        <ConnectionForm station={station} onDone={() => setOpen(false)} />
      ) : (
        <Button variant="link" onClick={() => setOpen(true)}>
          {station.device ? "Change how it is reached" : "Connect it"}
        </Button>
      )}
    </section>
  );
}
