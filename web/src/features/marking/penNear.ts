/** How long after a pen was seen a touch is taken for the hand that holds it. */
const NEAR_MS = 1500;
let penSeen = -Infinity;
let released: ReturnType<typeof setTimeout> | undefined;

/** Keeps in mind that a pen is near: meanwhile the roll does not move under the hand that holds it. */
export function watchPen(element: HTMLElement): () => void {
  const seen = (event: PointerEvent) => {
    if (event.pointerType !== "pen") return;
    penSeen = event.timeStamp;
    element.classList.add("pen-near");
    clearTimeout(released);
    released = setTimeout(() => element.classList.remove("pen-near"), NEAR_MS);
  };
  const kinds = ["pointerover", "pointermove", "pointerdown", "pointerup"] as const;
  for (const kind of kinds) element.addEventListener(kind, seen, true);
  return () => {
    for (const kind of kinds) element.removeEventListener(kind, seen, true);
  };
}

/** A finger draws only where that was chosen, and never beside a pen: then it is the palm. */
export function mayDraw(event: globalThis.PointerEvent, finger: boolean): boolean {
  if (event.pointerType !== "touch") return true;
  return finger && event.timeStamp - penSeen > NEAR_MS;
}
