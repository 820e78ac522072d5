import { render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import { PlainHttp } from "./plain-http";

afterEach(() => {
  vi.unstubAllGlobals();
  localStorage.clear();
});

describe("over plain http", () => {
  it("the firing view says once what that means and what to do", async () => {
    vi.stubGlobal("isSecureContext", false);
    const { unmount } = render(<PlainHttp />);
    expect(screen.getByRole("status").textContent).toMatch(/lets the screen go dark.*stay on/s);
    await userEvent.click(screen.getByRole("button", { name: "Understood" }));
    expect(screen.queryByRole("status")).toBeNull();
    unmount();
    render(<PlainHttp />);
    expect(screen.queryByRole("status")).toBeNull();
  });

  it("nothing is said where it is encrypted", () => {
    vi.stubGlobal("isSecureContext", true);
    render(<PlainHttp />);
    expect(screen.queryByRole("status")).toBeNull();
  });
});
