import type { Firing } from "../api/client";
import { useWaiting } from "./in-fire";
import { type Entry, journal } from "./journal";

const at = (iso: string) =>
  new Date(iso).toLocaleTimeString("en-GB", {
    hour: "2-digit",
    minute: "2-digit",
    second: "2-digit",
  });

/** What an event was, in words. */
function told({ body }: Entry, firing: Firing): string {
  const action = body.beat === undefined ? "" : (firing.beats[body.beat]?.action ?? "");
  if (body.kind === "confirm") return `“${action}” at ${at(body.at)}`;
  if (body.kind === "undo") return `Undo of “${action}” at ${at(body.at)}`;
  if (body.kind === "close") return `Close at ${at(body.at)}`;
  return `“${body.note ?? ""}” at ${at(body.at)}`;
}

/** Whether everything reached the server, and what it would not take. */
export function Waiting({
  firing,
  onRemark,
}: {
  firing: Firing;
  onRemark: (text: string) => void;
}) {
  const { entries, gone } = useWaiting();
  const waiting = entries.filter((e) => !e.refused).length;
  const refused = entries.filter((e) => e.refused && e.firing === firing.id);
  return (
    <>
      {gone && (
        <div className="caut" role="status">
          No server.{" "}
          {waiting > 0 ? `${waiting} kept on this device, written up` : "All is written up"}
          {waiting > 0 ? " when it is back." : "; go on."}
        </div>
      )}
      {refused.map((entry) => (
        <div className="caut strong" role="alert" key={entry.seq}>
          <p>
            Not taken: {told(entry, firing)}. {entry.refused}
          </p>
          <div className="alt">
            <button
              type="button"
              onClick={() => {
                onRemark(`Pressed on a device, not taken: ${told(entry, firing)}.`);
                journal.dismiss(entry);
              }}
            >
              Keep as a remark
            </button>
            <button type="button" onClick={() => journal.dismiss(entry)}>
              Let it go
            </button>
          </div>
        </div>
      ))}
    </>
  );
}
