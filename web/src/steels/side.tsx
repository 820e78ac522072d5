import { type ReactNode, useEffect, useState } from "react";
import { Button, Offcanvas } from "react-bootstrap";
import { useLocation } from "react-router";
import { SteelPlaces } from "./places";
import css from "./steels.module.css";

/** What stands beside the page of the steels; on a phone it is called up, and gone when something was chosen. */
export function Side({ chosen, children }: { chosen?: string; children?: ReactNode }) {
  const [open, setOpen] = useState(false);
  const { pathname } = useLocation();
  // biome-ignore lint/correctness/useExhaustiveDependencies: what was chosen ends it
  useEffect(() => setOpen(false), [pathname, chosen]);
  return (
    <>
      <Button
        className={css["call-side"]}
        variant="outline-primary"
        aria-expanded={open}
        onClick={() => setOpen(true)}
      >
        All steels
      </Button>
      <Offcanvas
        responsive="md"
        className={`rack-side ${css["steel-list"]}`}
        show={open}
        onHide={() => setOpen(false)}
        aria-label="Steels"
      >
        {open && (
          <Offcanvas.Header>
            <Button variant="outline-primary" onClick={() => setOpen(false)}>
              Close
            </Button>
          </Offcanvas.Header>
        )}
        <nav aria-label="Steels">
          <SteelPlaces />
          {children}
        </nav>
      </Offcanvas>
    </>
  );
}
