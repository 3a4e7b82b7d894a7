import "./Trouble.css";

/** Something that could not be shown or done, in the server's plain words. */
export function Trouble({ error, onRetry }: { error: unknown; onRetry?: () => void }) {
  const message = error instanceof Error ? error.message : "Something went wrong. Reload the page; nothing was lost.";
  return (
    <div className="trouble" role="alert">
      {message}
      {onRetry && (
        <button type="button" className="plain" onClick={onRetry}>
          Try again
        </button>
      )}
    </div>
  );
}
