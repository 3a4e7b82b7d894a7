import { useRef } from "react";

const [LEAST_PX, STEEPEST] = [50, 0.6];

/** One finger drawn sideways: +1 to the left, -1 to the right. Not while two fingers pinch or a grown page is moved about. */
export function useSwipe(onSwipe: (by: 1 | -1) => void) {
  const from = useRef<{ x: number; y: number } | null>(null);
  return {
    onTouchStart: (event: React.TouchEvent) => {
      const [touch, second] = [event.touches[0], event.touches[1]];
      const view = event.target instanceof Element ? event.target.closest(".panel-view") : null;
      const grown = view !== null && view.scrollWidth > view.clientWidth + 1;
      from.current = touch && !second && !grown ? { x: touch.clientX, y: touch.clientY } : null;
    },
    onTouchEnd: (event: React.TouchEvent) => {
      const touch = event.changedTouches[0];
      const start = from.current;
      from.current = null;
      if (!touch || !start || event.touches.length > 0) return;
      const [across, down] = [touch.clientX - start.x, touch.clientY - start.y];
      if (Math.abs(across) < LEAST_PX || Math.abs(down) > Math.abs(across) * STEEPEST) return;
      onSwipe(across < 0 ? 1 : -1);
    },
  };
}
