import { useRef } from "react";
import type { PageKinds } from "../accepted";
import { ChooseFiles } from "../strip/ChooseFiles";

interface CameraButtonProps {
  /** Large and alone while there is no page; small beside the others later. */
  first: boolean;
  add: (files: File[]) => void;
}

/** The camera first: that is what a phone is for here. */
export function CameraButton({ first, add }: CameraButtonProps) {
  const camera = useRef<HTMLInputElement>(null);
  return (
    <>
      <button
        type="button"
        className={first ? "phone-camera" : "phone-camera phone-camera-small"}
        aria-label={first ? undefined : "Photograph the next page"}
        onClick={() => camera.current?.click()}
      >
        {first ? "Photograph a page" : "Photograph"}
      </button>
      <input ref={camera} type="file" hidden accept="image/*" capture="environment" aria-label="Camera" onChange={taken(add)} />
    </>
  );
}

export function FilesButton({ kinds, add }: { kinds: PageKinds; add: (files: File[]) => void }) {
  return (
    <ChooseFiles className="plain" kinds={kinds} onFiles={add}>
      Add pages
    </ChooseFiles>
  );
}

function taken(add: (files: File[]) => void) {
  return (event: React.ChangeEvent<HTMLInputElement>) => {
    add([...(event.target.files ?? [])]);
    event.target.value = "";
  };
}
