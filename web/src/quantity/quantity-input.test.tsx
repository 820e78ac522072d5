import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it, vi } from "vitest";
import { show } from "../testing/shop.test";
import { QuantityInput } from "./quantity-input";

function Edge({ told }: { told: (value: number) => void }) {
  const [value, setValue] = useState(0.8);
  return (
    <QuantityInput
      label="Edge"
      kind="length"
      value={value}
      range={[0.05, 25]}
      onChange={(v) => {
        setValue(v);
        told(v);
      }}
    />
  );
}

describe("a quantity", () => {
  it("takes what people write and shows it in the user's unit", async () => {
    const told = vi.fn();
    show(<Edge told={told} />);
    const field = screen.getByLabelText<HTMLInputElement>("Edge");
    expect(field.value).toBe("0.8 mm");
    await userEvent.clear(field);
    await userEvent.type(field, "25 thou{Enter}");
    expect(told).toHaveBeenLastCalledWith(expect.closeTo(0.635, 6));
    expect(field.value).toBe("0.64 mm");
  });

  it("refuses nonsense, keeps it, and says what is allowed", async () => {
    const told = vi.fn();
    show(<Edge told={told} />);
    const field = screen.getByLabelText<HTMLInputElement>("Edge");
    await userEvent.clear(field);
    await userEvent.type(field, "thin{Enter}");
    expect(screen.getByText(/cannot be read/)).toBeTruthy();
    expect(field.value).toBe("thin");
    await userEvent.clear(field);
    await userEvent.type(field, "40{Enter}");
    expect(screen.getByText("Allowed: 0.05 mm to 25 mm.")).toBeTruthy();
    expect(field.getAttribute("aria-describedby")).toBeTruthy();
    expect(told).not.toHaveBeenCalled();
  });

  it("is nudged by the arrow keys and stays in range", async () => {
    const told = vi.fn();
    show(<Edge told={told} />);
    const field = screen.getByLabelText("Edge");
    await userEvent.click(field);
    await userEvent.keyboard("{ArrowUp}");
    expect(told).toHaveBeenLastCalledWith(0.9);
    await userEvent.keyboard("{Shift>}{ArrowDown}{/Shift}");
    expect(told).toHaveBeenLastCalledWith(expect.closeTo(0.4, 6));
    await userEvent.keyboard("{Shift>}{ArrowDown}{/Shift}");
    expect(told).toHaveBeenCalledTimes(2);
  });

  it("follows U to the other units, but not while typing", async () => {
    show(<Edge told={() => {}} />);
    const field = screen.getByLabelText<HTMLInputElement>("Edge");
    await userEvent.click(field);
    await userEvent.keyboard("u");
    expect(field.value).not.toContain("in");
    await userEvent.keyboard("{Escape}");
    field.blur();
    await userEvent.keyboard("u");
    expect(localStorage.getItem("vatten.units")).toBe("inch");
  });
});
