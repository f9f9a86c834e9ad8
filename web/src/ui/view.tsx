import type { ReactNode } from "react";
import { ErrorBoundary } from "react-error-boundary";

/** Holds a view: when it breaks, it says so in its place, and everything around it goes on. */
export function View({ name, reset, children }: { name: string; reset?: unknown; children: ReactNode }) {
  return (
    <ErrorBoundary
      resetKeys={[reset]}
      onError={(error) => console.error(error)}
      fallbackRender={({ error, resetErrorBoundary }) => (
        <div role="alert" className="p-6">
          <h1 className="font-semibold text-xl">Page failed: {name}</h1>
          <p className="mt-1 max-w-prose">
            Nothing typed is lost; unsent changes are kept in this browser and will be sent.
          </p>
          <p className="figure mt-2 text-faded">{error instanceof Error ? error.message : String(error)}</p>
          <button type="button" className="word mt-3" onClick={resetErrorBoundary}>
            try again
          </button>
        </div>
      )}
    >
      {children}
    </ErrorBoundary>
  );
}

/** What stands where a view is still being opened, or cannot be: the words say which. */
export function Opening({ trouble, again }: { trouble?: string | null; again?: () => void }) {
  if (!trouble) return <Still />;
  return (
    <p role="alert" className="p-6">
      <span className="text-short">{trouble}</span>{" "}
      {again && (
        <button type="button" className="word" onClick={again}>
          try again
        </button>
      )}
    </p>
  );
}

/** The still frame of a view: a heading and a few lines where they will stand, so that nothing jumps when it is there. */
function Still() {
  return (
    <div className="max-w-4xl px-6 py-5 max-sm:px-3" role="status">
      <p className="text-faded">Opening …</p>
      <div aria-hidden="true" data-still>
        <p className="mt-2 h-7 w-64 max-w-full bg-leaf" />
        {["w-full", "w-11/12", "w-4/5", "w-2/3", "w-1/2"].map((width) => (
          <p key={width} className={`mt-4 h-4 bg-leaf ${width}`} />
        ))}
      </div>
    </div>
  );
}
