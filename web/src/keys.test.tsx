import { render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, it } from "vitest";
import { setKeysOn } from "./keys";
import { UnitsProvider, useUnits } from "./quantity/units";

function Shown() {
  const { units } = useUnits();
  return <input aria-label={units.temperature} />;
}

const open = () =>
  render(
    <UnitsProvider shop={{ temperature: "c", length: "mm" }}>
      <Shown />
    </UnitsProvider>,
  );

afterEach(() => localStorage.clear());

it("a single key does nothing while it is typed, held with another, or switched off", async () => {
  open();
  await userEvent.type(screen.getByLabelText("c"), "u");
  (document.activeElement as HTMLElement).blur();
  await userEvent.keyboard("{Control>}u{/Control}");
  setKeysOn(false);
  await userEvent.keyboard("u");
  expect(screen.getByLabelText("c")).toBeTruthy();
  setKeysOn(true);
  await userEvent.keyboard("u");
  expect(screen.getByLabelText("f")).toBeTruthy();
});
