import { useRef } from "react";
import { ACCEPTED } from "../accepted";

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

export function FilesButton({ add }: { add: (files: File[]) => void }) {
  const files = useRef<HTMLInputElement>(null);
  return (
    <>
      <button type="button" className="plain" onClick={() => files.current?.click()}>
        Add pages
      </button>
      <input ref={files} type="file" hidden multiple accept={ACCEPTED} aria-label="Files to add as pages" onChange={taken(add)} />
    </>
  );
}

function taken(add: (files: File[]) => void) {
  return (event: React.ChangeEvent<HTMLInputElement>) => {
    add([...(event.target.files ?? [])]);
    event.target.value = "";
  };
}
