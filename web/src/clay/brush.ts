import { type KeyboardEvent, useReducer } from "react";
import type { Place } from "./line";

export type Tool = "paint" | "wipe" | "line";

/** The brush over the blade: where it is, the stroke it is at, and whether keys move it. */
export interface BrushState {
  at: Place | null;
  /** Where it went since it was put down; null when it is up. */
  drawn: Place[] | null;
  byKeys: boolean;
}

export type BrushAction =
  | { type: "down" | "drag"; at: Place }
  | { type: "move"; by: Place; start: Place }
  | { type: "press"; start: Place }
  | { type: "lift" | "focus" | "blur" };

export const RESTING: BrushState = { at: null, drawn: null, byKeys: false };

export function brushReducer(state: BrushState, action: BrushAction): BrushState {
  switch (action.type) {
    case "down":
      return { at: action.at, drawn: [action.at], byKeys: false };
    case "drag":
      return { ...state, drawn: state.drawn && [...state.drawn, action.at], byKeys: false };
    case "move": {
      const from = state.at ?? action.start;
      const at: Place = [from[0] + action.by[0], from[1] + action.by[1]];
      return { at, drawn: state.drawn && [...state.drawn, at], byKeys: true };
    }
    case "press": {
      const at = state.at ?? action.start;
      return { at, drawn: [at], byKeys: true };
    }
    case "lift":
      return { ...state, drawn: null };
    case "focus":
      return { ...state, byKeys: true };
    case "blur":
      return { ...state, byKeys: false };
  }
}

/** A brush moved with the pointer or the keys; `onStroke` is given each finished stroke. */
export function useBrush(options: {
  start: Place;
  onStroke: (points: Place[]) => void;
  undo: () => void;
  redo: () => void;
}) {
  const { start, onStroke, undo, redo } = options;
  const [brush, act] = useReducer(brushReducer, RESTING);
  const finish = () => {
    act({ type: "lift" });
    if (brush.drawn && brush.drawn.length > 0) onStroke(brush.drawn);
  };
  const onKey = (event: KeyboardEvent) => {
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z") {
      event.preventDefault();
      if (event.shiftKey) redo();
      else undo();
      return;
    }
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const far = event.shiftKey ? 10 : 2;
    const ways: Record<string, Place> = {
      ArrowLeft: [-far, 0],
      ArrowRight: [far, 0],
      ArrowUp: [0, far],
      ArrowDown: [0, -far],
    };
    const by = ways[event.key];
    if (by) act({ type: "move", by, start });
    else if (event.key === " ") brush.drawn ? finish() : act({ type: "press", start });
    else if (event.key === "Escape" && brush.drawn) act({ type: "lift" });
    else return;
    event.preventDefault();
  };
  const onPointer = (what: "down" | "move" | "up", at: Place) => {
    if (what === "down") act({ type: "down", at });
    else if (what === "move" && brush.drawn) act({ type: "drag", at });
    else if (what === "up") finish();
  };
  return {
    brush,
    onKey,
    onPointer,
    onFocus: () => act({ type: "focus" }),
    onBlur: () => act({ type: "blur" }),
  };
}
