import { render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import { Boundary, Broken } from "./boundary";

afterEach(() => vi.restoreAllMocks());

let broken = true;
function Part() {
  if (broken) throw new Error("no such action");
  return <p>drawn</p>;
}

describe("an error while a part draws", () => {
  it("leaves the rest of the page, and can be tried again", async () => {
    vi.spyOn(console, "error").mockImplementation(() => undefined);
    broken = true;
    render(
      <>
        <button type="button">In the oil</button>
        <Boundary instead={(error, again) => <Broken error={error} again={again} />}>
          <Part />
        </Boundary>
      </>,
    );
    screen.getByRole("button", { name: "In the oil" });
    expect(screen.getByText(/no such action/).textContent).toContain("What was saved is saved");
    broken = false;
    await userEvent.click(screen.getByRole("button", { name: "Draw it again" }));
    screen.getByText("drawn");
  });
});
