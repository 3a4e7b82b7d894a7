import { type RefObject, useEffect, useState } from "react";

const [LENS_PX, TIMES] = [190, 2.5];

/** A lens that follows the pointer over the page. */
export function Loupe({ image, sheet }: { image: string; sheet: RefObject<HTMLElement | null> }) {
  const [at, setAt] = useState<{ x: number; y: number; width: number; height: number } | null>(null);
  useEffect(() => {
    const element = sheet.current;
    if (!element) return;
    const moved = (event: PointerEvent) => {
      const { left, top, width, height } = element.getBoundingClientRect();
      setAt({ x: event.clientX - left, y: event.clientY - top, width, height });
    };
    const left = () => setAt(null);
    element.addEventListener("pointermove", moved);
    element.addEventListener("pointerleave", left);
    return () => {
      element.removeEventListener("pointermove", moved);
      element.removeEventListener("pointerleave", left);
    };
  }, [sheet]);
  if (!at) return null;
  return (
    <i
      className="panel-loupe"
      aria-hidden="true"
      style={{
        left: at.x - LENS_PX / 2,
        top: at.y - LENS_PX / 2,
        width: LENS_PX,
        height: LENS_PX,
        backgroundImage: `url(${image})`,
        backgroundSize: `${at.width * TIMES}px ${at.height * TIMES}px`,
        backgroundPosition: `${LENS_PX / 2 - at.x * TIMES}px ${LENS_PX / 2 - at.y * TIMES}px`,
      }}
    />
  );
}
