import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { refused, serve, session, show } from "../testing/shop.test";
import { AccountPage } from "./sign-in";

describe("signing in", () => {
  it("asks for what is missing before it asks the server", async () => {
    const asked = serve();
    show(<AccountPage />);
    await userEvent.click(screen.getByRole("button", { name: "Sign in" }));
    expect(await screen.findByText("Your password is needed.")).toBeTruthy();
    expect(asked).toHaveLength(0);
  });

  it("says what the server said, without saying which of the two was wrong", async () => {
    serve(({ path }) =>
      path === "/api/v1/session"
        ? {
            status: 401,
            body: { status: 401, title: "No", detail: "Address and password do not go together." },
          }
        : undefined,
    );
    show(<AccountPage />);
    await userEvent.type(screen.getByLabelText("Address"), "ina@shop.example");
    await userEvent.type(screen.getByLabelText("Password"), "wrong{Enter}");
    expect((await screen.findByRole("alert")).textContent).toContain("do not go together");
    expect(screen.getByLabelText<HTMLInputElement>("Address").value).toBe("ina@shop.example");
  });

  it("lets back in by a code", async () => {
    const asked = serve(({ path }) =>
      path === "/api/v1/recovery"
        ? refused([{ field: "password", message: "A longer password, please." }])
        : undefined,
    );
    show(<AccountPage />);
    await userEvent.click(screen.getByRole("button", { name: "Forgot the password" }));
    await screen.findByLabelText("Code");
    await userEvent.type(screen.getByLabelText("Address"), "ina@shop.example");
    await userEvent.type(screen.getByLabelText("Code"), "abcde abcde abcde abcde");
    await userEvent.type(screen.getByLabelText("New password"), "short{Enter}");
    expect(await screen.findByText("A longer password, please.")).toBeTruthy();
    expect(asked.at(-1)?.body).toMatchObject({ code: "abcde abcde abcde abcde" });
  });

  it("opens a shop, and shows a taken address at its field", async () => {
    let taken = true;
    const asked = serve(({ path }) => {
      if (path !== "/api/v1/signup") return undefined;
      return taken
        ? refused([{ field: "email", message: "That address has an account." }])
        : { body: session };
    });
    show(<AccountPage />);
    await userEvent.click(screen.getByRole("button", { name: "No shop yet: open one" }));
    await userEvent.type(screen.getByLabelText("Name of the shop"), "Quay smithy");
    await userEvent.type(screen.getByLabelText("Your name"), "Ina");
    await userEvent.type(screen.getByLabelText("Address"), "ina@shop.example");
    await userEvent.type(screen.getByLabelText("Password"), "short{Enter}");
    expect(await screen.findByText(/At least 10 characters/)).toBeTruthy();
    expect(asked).toHaveLength(0);
    await userEvent.type(screen.getByLabelText("Password"), " but longer{Enter}");
    expect(await screen.findByText("That address has an account.")).toBeTruthy();
    taken = false;
    await userEvent.click(screen.getByRole("button", { name: "Open the shop" }));
    await waitFor(() => expect(screen.queryByText("That address has an account.")).toBeNull());
    expect(asked.at(-1)?.body).toMatchObject({ workshop: "Quay smithy", name: "Ina" });
  });
});
