import { Alert } from "antd";

/** Something that could not be shown or done, in the server's plain words. */
export function Trouble({ error, onRetry }: { error: unknown; onRetry?: () => void }) {
  const message = error instanceof Error ? error.message : "Something went wrong. Reload the page; nothing was lost.";
  const again = onRetry && (
    <button type="button" className="plain" onClick={onRetry}>
      Try again
    </button>
  );
  return <Alert type="error" showIcon title={message} action={again} />;
}
