import type { ReactNode } from "react";
import { Button } from "react-bootstrap";
import { Notice } from "../fields/notice";

/** Somebody else saved a newer one: which is to stay. */
export function ConflictNotice(props: { children: ReactNode; onResolve: (mine: boolean) => void }) {
  return (
    <Notice>
      <span>{props.children}</span>
      <Button onClick={() => props.onResolve(true)}>Keep mine</Button>
      <Button variant="link" onClick={() => props.onResolve(false)}>
        Take theirs
      </Button>
    </Notice>
  );
}
