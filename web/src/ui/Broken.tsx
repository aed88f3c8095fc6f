import { Component, type ReactNode } from "react";
import { Button } from "./controls.tsx";

/** In place of a page that stopped: what is safe, the ways on, and what to pass on to whoever looks after it. */
export function Broken({ error, children }: { error: unknown; children?: ReactNode }) {
  return (
    <div className="p-8" role="alert">
      <h1 className="mb-2">This page has stopped</h1>
      <p className="mb-4 max-w-prose">
        Something in it went wrong that should not have. What was saved is as it was. Load the page again; if it stops
        there once more, pass on the words below.
      </p>
      <p className="flex flex-wrap gap-2">
        <Button look="main" onClick={() => location.reload()}>
          Load it again
        </Button>
        {children}
      </p>
      <p className="mt-6 max-w-prose text-xs text-muted [overflow-wrap:anywhere]">
        {error instanceof Error ? `${error.name}: ${error.message}` : String(error)}
      </p>
    </div>
  );
}

/** Shows what stops below it as such, rather than an empty page. */
export class Catching extends Component<{ children: ReactNode }, { error: unknown }> {
  override state: { error: unknown } = { error: null };
  static getDerivedStateFromError(error: unknown) {
    return { error };
  }
  override render() {
    return this.state.error === null ? this.props.children : <Broken error={this.state.error} />;
  }
}
