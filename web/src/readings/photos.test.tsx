import { fireEvent, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { Photo } from "../api/client";
import { blade, refused, serve, show } from "../testing/shop.test";
import { Photos } from "./photos";
import { asking } from "./tracing";

const photo: Photo = {
  id: "p1",
  width: 800,
  height: 300,
  taken_at: "2026-11-25T09:00:00Z",
};

describe("photographs", () => {
  it("are traced with the keyboard as well: two points, then the line", async () => {
    const asked = serve(({ method, path }) => {
      if (method === "GET" && path.endsWith("/photos")) return { body: [photo] };
      return method === "POST" ? { body: {} } : undefined;
    });
    show(<Photos blade={blade} />);
    await userEvent.click(await screen.findByRole("button", { name: "Trace the hamon" }));
    const picture = screen.getByRole("application", { name: /Point at the heel/ });
    const keep = screen.getByRole<HTMLButtonElement>("button", { name: "Keep the line" });
    for (const keys of ["Left", "Right", "Up", "Right"]) {
      fireEvent.keyDown(picture, { key: `Arrow${keys}` });
      fireEvent.keyDown(picture, { key: `Arrow${keys}` });
      fireEvent.keyDown(picture, { key: "Enter" });
    }
    expect(keep.disabled).toBe(false);
    await userEvent.selectOptions(screen.getByLabelText("Clear"), "4");
    await userEvent.click(keep);
    await waitFor(() => expect(asked.some((a) => a.path.endsWith("/p1/line"))).toBe(true));
    expect(asked.find((a) => a.path.endsWith("/p1/line"))?.body).toMatchObject({
      clarity: 4,
      line: [
        [400, 130],
        [420, 130],
      ],
      scale: {
        dots: [
          [380, 150],
          [400, 150],
        ],
        mm: [
          [0, 0],
          [190, 14],
        ],
      },
    });
  });

  it("of no picture are told so", async () => {
    serve(({ method, path }) => {
      if (method === "POST" && path.endsWith("/photos")) {
        return refused([{ field: "picture", message: "This picture is broken." }]);
      }
      return path.endsWith("/photos") ? { body: [] } : undefined;
    });
    show(<Photos blade={blade} />);
    const file = new File(["no"], "a.jpg", { type: "image/jpeg" });
    await userEvent.upload(screen.getByLabelText(/JPEG or PNG/), file);
    expect((await screen.findByRole("alert")).textContent).toContain("broken");
  });

  it("say what comes next", () => {
    expect(asking([], [])).toContain("heel");
    expect(asking([[1, 1]], [])).toContain("tip");
    expect(
      asking(
        [
          [1, 1],
          [2, 2],
        ],
        [[1, 2]],
      ),
    ).toContain("1 places");
  });
});
