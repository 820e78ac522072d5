import type { ReactNode } from "react";
import { useMay } from "../api/queries";
import css from "./blade.module.css";

/** What smiths change, and whoever fires looks at. */
export function ToPlan({ children }: { children: ReactNode }) {
  const plans = useMay("smith");
  if (plans) return children;
  return (
    <>
      <p className={css.only} role="status">
        To look at: a smith of the shop plans. You fire it, and put in what came out.
      </p>
      <fieldset disabled className={css.looked}>
        {children}
      </fieldset>
    </>
  );
}
