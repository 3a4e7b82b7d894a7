import { useSyncExternalStore } from "react";

/** Whether a media query holds now. */
export function useMedia(query: string): boolean {
  const subscribe = (changed: () => void) => {
    const list = matchMedia(query);
    list.addEventListener("change", changed);
    return () => list.removeEventListener("change", changed);
  };
  return useSyncExternalStore(subscribe, () => matchMedia(query).matches);
}
