/** What is not on the server yet, in words. While there is any, the browser asks before it leaves the page. */
const unsaved = new Map<object, string>();

/** `what` is empty when all of the owner's is safe. */
export function keepAnEyeOn(owner: object, what: string) {
  if (what) unsaved.set(owner, what);
  else unsaved.delete(owner);
  if (typeof window === "undefined") return;
  if (unsaved.size > 0) window.addEventListener("beforeunload", warn);
  else window.removeEventListener("beforeunload", warn);
}

export function unsavedNow(): string[] {
  return [...unsaved.values()];
}

function warn(event: BeforeUnloadEvent) {
  event.preventDefault();
}
