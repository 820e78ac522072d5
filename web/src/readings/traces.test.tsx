import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { LogRead, TraceView } from "../api/client";
import { blade, firing, refused, serve, show } from "../testing/shop.test";
import { Traces } from "./traces";

const log: LogRead = {
  headings: ["time", "T1", "T2"],
  first_rows: [["08:00:00", "205", "21"]],
  columns: { time: 0, temperature: 1, fahrenheit: false },
  dated: false,
  zoned: false,
  span_ms: [0, 7_200_000],
  span_c: [20, 212],
  samples: 720,
  notes: [{ code: "gap", gap_s: 720, clock_put_forward: false }],
};
const trace: TraceView = {
  id: "x1",
  firing_id: firing.id,
  name: "oven.csv",
  from_file: true,
  corrected: true,
  samples: [
    [0, 20],
    [600_000, 214],
    [7_200_000, 212],
  ],
  steps: [
    {
      step: 3,
      round: 0,
      planned_c: 205,
      planned_s: 7200,
      from_ms: 0,
      to_ms: 7_200_000,
      held: {
        at_heat_s: 6900,
        mean_c: 213,
        hottest_c: 214,
        overshoot_c: 9,
        undershoot_c: 0,
        unknown_s: 600,
      },
      temper: { parameter: 9800, as_steady_c: 213 },
      really: [213, 7200],
    },
  ],
  to_say: [[204, 7200]],
  notes: [],
};

describe("traces", () => {
  it("are held against the plan and taken into the record", async () => {
    const asked = serve(({ method, path }) => {
      if (method === "GET" && path.endsWith("/traces")) return { body: [trace] };
      if (method === "POST") return { body: firing };
      return undefined;
    });
    show(<Traces blade={blade} firings={[firing]} />);
    await screen.findByText("213 °C, 115 min, 10 min unknown");
    screen.getByText("213 °C all along");
    screen.getByText(/corrected by its last check/);
    await userEvent.click(screen.getByRole("button", { name: "Take into the record" }));
    await screen.findByText(/Taken/);
    const said = asked.find((a) => a.path.endsWith("/events"))?.body;
    expect(said).toMatchObject({ kind: "say", step: 3, temperature_c: 204, lasted_s: 7200 });
  });

  it("are brought in with their columns chosen", async () => {
    let kept = false;
    const asked = serve(({ method, path, body }) => {
      if (method === "GET" && path.endsWith("/traces")) return { body: [] };
      if (path.endsWith("/traces/read")) return { body: log };
      if (method === "POST" && path.endsWith("/traces")) {
        kept = !!(body as { starts_at?: string }).starts_at;
        return kept
          ? { body: log }
          : refused([{ field: "starts_at", message: "The log has no dates: say when it began." }]);
      }
      return undefined;
    });
    show(<Traces blade={blade} firings={[firing]} />);
    const file = new File(["time,T1\n08:00:00,205\n"], "oven.csv", { type: "text/csv" });
    await userEvent.upload(screen.getByLabelText(/Bring in a log/), file);
    await screen.findByText(/Nothing for 12 min/);
    await userEvent.selectOptions(screen.getByLabelText("Temperature is in"), "T2");
    await waitFor(() => expect(asked.filter((a) => a.path.endsWith("/read"))).toHaveLength(2));
    expect(asked.findLast((a) => a.path.endsWith("/read"))?.body).toMatchObject({
      columns: { time: 0, temperature: 2 },
    });
    await userEvent.click(screen.getByRole("button", { name: "Keep with this firing" }));
    await screen.findByText(/say when it began/);
    const begins = screen.getByLabelText("It began at");
    await userEvent.type(begins, "2026-11-20T08:00");
    await userEvent.click(screen.getByRole("button", { name: "Keep with this firing" }));
    await waitFor(() => expect(kept).toBe(true));
  });

  it("say what is wrong with a file that is none", async () => {
    serve(({ path }) =>
      path.endsWith("/read")
        ? refused([{ field: "text", message: "There are no rows of times and temperatures." }])
        : undefined,
    );
    show(<Traces blade={blade} firings={[]} />);
    const file = new File(["hello"], "a.txt", { type: "text/plain" });
    await userEvent.upload(screen.getByLabelText(/Bring in a log/), file);
    expect((await screen.findByRole("alert")).textContent).toContain("no rows of times");
  });
});
