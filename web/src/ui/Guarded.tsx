import type { ReactNode } from "react";
import { ErrorBoundary, type FallbackProps } from "react-error-boundary";

interface Props {
  /** What stands here, as it begins a sentence: “The map”. */
  what: string;
  /** It is tried again by itself when one of these becomes another. */
  until?: readonly unknown[];
  /** Lets it be tried again where more is needed than to draw it anew. */
  onRetry?: () => void;
  children: ReactNode;
}

/** A part of the page that may fail by itself: then a sentence stands in its place, and all else goes on. */
export function Guarded({ what, until = [], onRetry, children }: Props) {
  const fallback = ({ resetErrorBoundary }: FallbackProps) => (
    <div role="alert" data-failed={what} className="m-auto max-w-md p-4 text-center">
      <p className="mb-2 font-read text-warn">
        {what} cannot be shown just now. The rest goes on, and nothing that was made is lost.
      </p>
      <button type="button" className="button" onClick={onRetry ?? (() => resetErrorBoundary())}>
        Try again
      </button>
    </div>
  );
  return (
    <ErrorBoundary fallbackRender={fallback} resetKeys={[...until]}>
      {children}
    </ErrorBoundary>
  );
}
