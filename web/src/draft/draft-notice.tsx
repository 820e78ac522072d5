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

/** Undo and redo of a draft. */
export function UndoRedo(props: {
  draft: { past: unknown[]; future: unknown[]; undo: () => void; redo: () => void };
}) {
  const { past, future, undo, redo } = props.draft;
  return (
    <>
      <Button variant="link" disabled={past.length === 0} onClick={undo}>
        Undo
      </Button>
      <Button variant="link" disabled={future.length === 0} onClick={redo}>
        Redo
      </Button>
    </>
  );
}
