const AT_THE_LATEST_MS = 1500;

/** Runs it when the browser has nothing to do, soon in any case. What is answered takes it back. */
export function whenQuiet(run: () => void): () => void {
  if (!("requestIdleCallback" in window)) {
    const later = setTimeout(run, AT_THE_LATEST_MS); // Safari
    return () => clearTimeout(later);
  }
  const asked = requestIdleCallback(run, { timeout: AT_THE_LATEST_MS });
  return () => cancelIdleCallback(asked);
}
