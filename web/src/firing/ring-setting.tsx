import { useState } from "react";
import css from "./firing.module.css";

const ANSWERED = "vatten.ring";

const can = () => "Notification" in window && window.isSecureContext;

/** Says once how it rings, and asks whether it may tell outside of the page too. */
export function RingSetting() {
  const [answered, setAnswered] = useState(() => localStorage.getItem(ANSWERED) === "yes");
  if (answered) return null;
  const answer = async (outside: boolean) => {
    localStorage.setItem(ANSWERED, "yes");
    if (outside) await Notification.requestPermission().catch(() => undefined);
    setAnswered(true);
  };
  const asks = can() && Notification.permission === "default";
  return (
    <div className={css.caut} role="status">
      <p>
        It rings for every blade in the fire, two minutes before a long hold is over and when it is,
        on every page of vatten that is open. In the background it can be a minute late, and a
        locked screen may not ring at all: let this screen stay on.
        {can()
          ? ""
          : " Over plain http, or in this browser, it cannot tell you outside of the page."}
      </p>
      <div className={css.alt}>
        {asks && (
          <button type="button" onClick={() => answer(true)}>
            Notify me as well
          </button>
        )}
        <button type="button" onClick={() => answer(false)}>
          {asks ? "Sound is enough" : "Understood"}
        </button>
      </div>
    </div>
  );
}
