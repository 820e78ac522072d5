import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { show } from "../testing/shop.test";
import { Side } from "./side";

/** A list with one thing to choose. */
function Picking() {
  const [chosen, choose] = useState("1084");
  return (
    <Side chosen={chosen}>
      <button type="button" onClick={() => choose("o1")}>
        O1
      </button>
    </Side>
  );
}

describe("the side of the steels on a phone", () => {
  beforeEach(() => {
    const narrow = {
      matches: false,
      addListener: () => undefined,
      removeListener: () => undefined,
    };
    vi.stubGlobal("matchMedia", () => narrow);
  });
  const call = () => userEvent.click(screen.getByRole("button", { name: "All steels" }));

  it("is called up, and goes with Escape or Close", async () => {
    show(<Side>the list</Side>);
    await call();
    expect(await screen.findByRole("dialog", { name: "Steels" })).toBeTruthy();
    await userEvent.keyboard("{Escape}");
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    await call();
    await userEvent.click(await screen.findByRole("button", { name: "Close" }));
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
  });

  it("is gone when something was chosen", async () => {
    show(<Picking />);
    await call();
    await screen.findByRole("dialog");
    await userEvent.click(screen.getByRole("button", { name: "O1" }));
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
  });
});
