import { Button } from "react-bootstrap";

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
