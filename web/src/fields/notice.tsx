import type { ReactNode } from "react";
import { Alert } from "react-bootstrap";

/** Something to know at once: said aloud when it appears. */
export function Notice({ children }: { children: ReactNode }) {
  return (
    <Alert bsPrefix="notice" variant="" transition={false}>
      {children}
    </Alert>
  );
}
