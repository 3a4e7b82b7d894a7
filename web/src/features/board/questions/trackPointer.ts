interface Point {
  x: number;
  y: number;
}
interface Tracked {
  onMove: (at: Point) => void;
  /** It was let go. */
  onEnd: (at: Point) => void;
  /** Escape, or the system took the pointer away. */
  onCancel: () => void;
}

/**
 * A pointer from its press until it is let go, heard from the press itself and not from the next drawing on: a quick hand
 * on a slow device has let go before that. Returns what stops it.
 */
export function trackPointer({ onMove, onEnd, onCancel }: Tracked): () => void {
  const heard = new AbortController();
  const stop = () => heard.abort();
  const { signal } = heard;
  window.addEventListener("pointermove", ({ clientX, clientY }) => onMove({ x: clientX, y: clientY }), { signal });
  window.addEventListener("pointerup", ({ clientX, clientY }) => (stop(), onEnd({ x: clientX, y: clientY })), { signal });
  window.addEventListener("pointercancel", () => (stop(), onCancel()), { signal });
  window.addEventListener("keydown", ({ key }) => key === "Escape" && (stop(), onCancel()), { signal });
  return stop;
}
