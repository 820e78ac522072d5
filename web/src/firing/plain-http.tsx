import { useState } from "react";
import css from "./firing.module.css";

const TOLD = "vatten.plain-http";

/** Says once, over plain http, what the browser then keeps from this page and what to do about it. */
export function PlainHttp() {
  const [told, setTold] = useState(
    () => window.isSecureContext || localStorage.getItem(TOLD) === "yes",
  );
  if (told) return null;
  return (
    <div className={css.caut} role="status">
      <p>
        This page came over plain http: the browser lets the screen go dark and cannot load the page
        again while the server is gone. Set this screen to stay on and do not reload, or use https.
        What you press is kept either way.
      </p>
      <div className={css.alt}>
        <button
          type="button"
          onClick={() => {
            localStorage.setItem(TOLD, "yes");
            setTold(true);
          }}
        >
          Understood
        </button>
      </div>
    </div>
  );
}
