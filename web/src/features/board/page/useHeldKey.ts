import { useEffect, useState } from "react";

/** Whether a key is held, wherever the focus is but in a field with text in it; and a way to hold it by other means. */
export function useHeldKey(key: string) {
  const [held, setHeld] = useState(false);
  useEffect(() => {
    const writing = (target: EventTarget | null) =>
      target instanceof HTMLTextAreaElement || (target instanceof HTMLInputElement && target.value !== "");
    const down = (event: KeyboardEvent) => {
      if (event.key !== key || writing(event.target)) return;
      event.preventDefault();
      setHeld(true);
    };
    const up = (event: KeyboardEvent) => event.key === key && setHeld(false);
    const lost = () => setHeld(false);
    window.addEventListener("keydown", down);
    window.addEventListener("keyup", up);
    window.addEventListener("blur", lost);
    return () => {
      window.removeEventListener("keydown", down);
      window.removeEventListener("keyup", up);
      window.removeEventListener("blur", lost);
    };
  }, [key]);
  return [held, setHeld] as const;
}
