import { type RefObject, useEffect } from "react";
import { useLatest } from "../../../shared/useLatest";

interface Point {
  x: number;
  y: number;
}

/** Two fingers, or Ctrl and the wheel (as which a trackpad's pinch comes): by how much, and about which point of the window. */
export function usePinch(field: RefObject<HTMLElement | null>, onPinch: (factor: number, about: Point) => void) {
  const latest = useLatest(onPinch);
  useEffect(() => {
    const element = field.current;
    if (!element) return;
    const onWheel = (event: WheelEvent) => {
      if (!event.ctrlKey) return;
      event.preventDefault();
      latest.current(Math.exp(-event.deltaY / 300), { x: event.clientX, y: event.clientY });
    };
    let apart = 0;
    const onTouch = (event: TouchEvent) => {
      const [one, other] = [event.touches[0], event.touches[1]];
      if (!one || !other) {
        apart = 0;
        return;
      }
      event.preventDefault();
      const now = Math.hypot(one.clientX - other.clientX, one.clientY - other.clientY);
      const middle = { x: (one.clientX + other.clientX) / 2, y: (one.clientY + other.clientY) / 2 };
      if (apart > 0) latest.current(now / apart, middle);
      apart = now;
    };
    element.addEventListener("wheel", onWheel, { passive: false });
    element.addEventListener("touchmove", onTouch, { passive: false });
    element.addEventListener("touchend", onTouch, { passive: false });
    return () => {
      element.removeEventListener("wheel", onWheel);
      element.removeEventListener("touchmove", onTouch);
      element.removeEventListener("touchend", onTouch);
    };
  }, [field, latest]);
}
