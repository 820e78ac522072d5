import { Button, Form } from "react-bootstrap";
import type { Clay } from "../api/client";
import { UndoRedo } from "../draft/undo-redo";
import { RadioRow } from "../fields/radio-row";
import { QuantityInput } from "../quantity/quantity-input";
import type { Tool } from "./brush";
import { joined, swapped } from "./faces";
import type { ClayDraft } from "./use-clay";

const TOOLS: Record<Tool, string> = {
  paint: "Lay clay on",
  wipe: "Wipe it off",
  line: "Draw the wanted line",
};

const FACES = { left: "Left face, seen through", right: "Right face" } as const;

/** What the brush is set to. */
export interface Brush {
  tool: Tool;
  /** mm. */
  width: number;
  /** Of the clay it lays, mm. */
  thickness: number;
  right: boolean;
}

/** What the brush does, how wide and thick, on which face; and back. */
export function ClayTools(props: {
  brush: Brush;
  onBrush: (to: Brush) => void;
  draft: ClayDraft;
  /** The clay was saved at least once. */
  kept: boolean;
}) {
  const { brush, onBrush, draft, kept } = props;
  const { clay } = draft.now;
  const same = !clay.right;
  const lay = (to: Clay) => draft.change((now) => ({ ...now, clay: to }));
  return (
    <>
      <div className="tool-row">
        <RadioRow
          label="What the brush does"
          name="clay-tool"
          options={TOOLS}
          value={brush.tool}
          onChange={(tool) => onBrush({ ...brush, tool })}
        />
        <QuantityInput
          label="Brush"
          kind="length"
          value={brush.width}
          range={[1, 100]}
          onChange={(width) => onBrush({ ...brush, width })}
        />
        <QuantityInput
          label="Thickness"
          kind="length"
          value={brush.thickness}
          range={[0.1, 10]}
          onChange={(thickness) => onBrush({ ...brush, thickness })}
        />
      </div>
      <div className="tool-row">
        <RadioRow
          label="Face"
          name="clay-face"
          options={FACES}
          value={brush.right ? "right" : "left"}
          onChange={(f) => onBrush({ ...brush, right: f === "right" })}
        />
        <Form.Check
          id="clay-same"
          type="checkbox"
          label="Both faces the same"
          checked={same}
          onChange={(e) => lay(joined(clay, brush.right, e.target.checked))}
        />
        {!same && (
          <Button variant="link" onClick={() => lay(swapped(clay))}>
            Swap the faces
          </Button>
        )}
        <span className="saved soft">{draft.saved === "saved" && !kept ? "" : draft.saved}</span>
        <UndoRedo draft={draft} />
      </div>
    </>
  );
}
