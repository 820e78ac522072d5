import type { KeyboardEvent } from "react";
import type { Step } from "../api/client";
import type { Units } from "../quantity/parse";
import { nudge } from "./edit-plan";

/** What a key pressed on the heat path does. */
export interface PathActions {
  steps: Step[];
  selected: number;
  units: Units;
  frozen: boolean;
  select: (at: number) => void;
  change: (to: (now: Step[]) => Step[]) => void;
  undo: () => void;
  redo: () => void;
  remove: () => void;
  double: () => void;
}

const editorField = () => document.querySelector<HTMLInputElement>(".editor input");

/** Where a key takes the selection. */
function walked(key: string, at: number, last: number): number | undefined {
  switch (key) {
    case "ArrowLeft":
      return Math.max(0, at - 1);
    case "ArrowRight":
      return Math.min(last, at + 1);
    case "Home":
      return 0;
    case "End":
      return last;
  }
}

/** What a key does to a plan that may be changed. */
function editing(event: KeyboardEvent, path: PathActions): (() => void) | undefined {
  switch (event.key) {
    case "ArrowUp":
    case "ArrowDown": {
      const what = event.altKey ? "time" : "temperature";
      const way = event.key === "ArrowUp" ? 1 : -1;
      const { selected, units } = path;
      return () => path.change((now) => nudge(now, selected, what, way, event.shiftKey, units));
    }
    case "Delete":
    case "Backspace":
      return path.remove;
    case "d":
    case "D":
      return path.double;
    case "a":
    case "A":
      return () => document.getElementById("add-step")?.focus();
    case "Enter":
      return () => editorField()?.focus();
  }
}

/** Keys of the heat path: walk, nudge, add, double, remove, undo, and typing a temperature. */
export function onPathKey(event: KeyboardEvent, path: PathActions) {
  if (event.ctrlKey || event.metaKey) {
    if (event.key.toLowerCase() !== "z") return;
    event.preventDefault();
    if (event.shiftKey) path.redo();
    else path.undo();
    return;
  }
  const to = walked(event.key, path.selected, path.steps.length - 1);
  if (to !== undefined) {
    event.preventDefault();
    path.select(to);
    return;
  }
  if (path.frozen) return;
  const edit = editing(event, path);
  if (edit) {
    event.preventDefault();
    edit();
  } else if (/^[0-9−-]$/.test(event.key)) {
    // The digit goes on to the field that has the focus now.
    editorField()?.focus();
  }
}
