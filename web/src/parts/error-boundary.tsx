// Error boundary display: other parts stay usable, and a button retries.
import { Component, type ComponentType, lazy, type ReactNode } from "react";
import { isRouteErrorResponse, useRouteError } from "react-router";
import { Button } from "./button";

interface Props {
  /** Name of the failed part for the user: "the lit view". */
  what: string;
  /** A change of this value retries rendering. */
  on?: unknown;
  children: ReactNode;
}

/** Error boundary that confines an error to its content. */
export class ErrorBoundary extends Component<Props, { error: Error | null; on: unknown }> {
  override state = { error: null as Error | null, on: this.props.on };

  static getDerivedStateFromError(error: Error) {
    return { error };
  }

  static getDerivedStateFromProps(props: Props, state: { error: Error | null; on: unknown }) {
    return props.on === state.on ? null : { error: null, on: props.on };
  }

  override render() {
    const { error } = this.state;
    if (!error) return this.props.children;
    return (
      <Broken
        what={this.props.what}
        why={error.message}
        again={() => this.setState({ error: null })}
      />
    );
  }
}

function Broken({ what, why, again }: { what: string; why: string; again: () => void }) {
  return (
    <div role="alert" className="m-4 max-w-140 rounded-md border border-wrong bg-card p-4">
      <p className="font-semibold">△ {what} stopped working.</p>
      <p className="mt-1 text-second">
        {why} Your changes are kept, and saved data isn't affected.
      </p>
      <p className="mt-3 flex gap-2">
        <Button onClick={again}>Try again</Button>
        <Button look="bare" onClick={() => location.reload()}>
          Reload page
        </Button>
      </p>
    </div>
  );
}

/** Error boundary of a view; the address may be the cause. */
export function ViewErrorBoundary() {
  const error = useRouteError();
  const why = isRouteErrorResponse(error)
    ? `${error.status} ${error.statusText}`
    : error instanceof Error
      ? error.message
      : "An unexpected error occurred.";
  return <Broken what="This view" why={why} again={() => location.reload()} />;
}

const TRIES = 3;
const WAIT = 700;

/** A lazily loaded part; a failed download is retried. */
export function loaded<P>(load: () => Promise<{ default: ComponentType<P> }>) {
  const attempt = async (left: number): Promise<{ default: ComponentType<P> }> => {
    try {
      return await load();
    } catch (error) {
      if (left <= 1) throw error;
      await new Promise((done) => setTimeout(done, WAIT));
      return attempt(left - 1);
    }
  };
  return lazy(() => attempt(TRIES));
}
