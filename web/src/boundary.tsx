import { Component, type ReactNode } from "react";

interface Props {
  children: ReactNode;
  /** What is shown instead; nothing when left out. */
  instead?: (error: Error, again: () => void) => ReactNode;
  /** Another one of these is another try. */
  of?: string;
}

/** Keeps an error while a part is drawn from taking the rest of the page with it. */
export class Boundary extends Component<Props, { error: Error | null; of?: string }> {
  override state: { error: Error | null; of?: string } = { error: null };

  static getDerivedStateFromError(error: unknown) {
    return { error: error instanceof Error ? error : new Error(String(error)) };
  }

  static getDerivedStateFromProps(props: Props, state: { of?: string }) {
    return props.of === state.of ? null : { error: null, of: props.of };
  }

  override render() {
    const { error } = this.state;
    if (!error) return this.props.children;
    return this.props.instead?.(error, () => this.setState({ error: null })) ?? null;
  }
}

/** A place of the shop that cannot be drawn: the others can still be gone to. */
export function Broken({ error, again }: { error: Error; again: () => void }) {
  return (
    <main className="page">
      <h1>This page broke</h1>
      <p>
        Something in it could not be drawn: {error.message}. What was saved is saved; the other
        places work.
      </p>
      <button type="button" className="btn btn-primary" onClick={again}>
        Draw it again
      </button>
    </main>
  );
}
