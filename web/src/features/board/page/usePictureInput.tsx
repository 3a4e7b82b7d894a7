import { useRef } from "react";
import { ACCEPTED_PICTURES } from "../accepted";

/** A hidden field for one picture, and what opens it. The same picture may be chosen twice. */
export function usePictureInput(label: string, onPicture: (picture: File) => void) {
  const input = useRef<HTMLInputElement>(null);
  const field = (
    <input
      ref={input}
      type="file"
      hidden
      accept={ACCEPTED_PICTURES}
      aria-label={label}
      onChange={(event) => {
        const picture = event.target.files?.[0];
        if (picture) onPicture(picture);
        event.target.value = "";
      }}
    />
  );
  return { field, ask: () => input.current?.click() };
}
