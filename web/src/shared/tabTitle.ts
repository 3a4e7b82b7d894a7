import { useEffect } from "react";

const said = { left: "", place: "" };

/** The browser's tab says where one is. */
export function usePlaceInTab(place: string) {
  useEffect(() => say({ place }), [place]);
}

/** And how long is left, while there is a sitting on the screen. */
export function useTimeLeftInTab(left: string) {
  useEffect(() => {
    say({ left });
    return () => say({ left: "" });
  }, [left]);
}

function say(words: Partial<typeof said>) {
  Object.assign(said, words);
  document.title = [said.left, said.place, "Inked Folio"].filter(Boolean).join(" · ");
}
