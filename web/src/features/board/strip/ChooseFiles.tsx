import { type KeyboardEvent, type ReactNode, useRef } from "react";
import { ACCEPTED, type PageKinds } from "../accepted";

interface Props {
  className: string;
  /** Of the chooser, for the ear. */
  label?: string;
  kinds: PageKinds;
  onFiles: (files: File[]) => void;
  onKey?: (event: KeyboardEvent) => void;
  children: ReactNode;
}

/** A button that opens the chooser for files to add as pages. */
export function ChooseFiles({ className, label = "Files to add as pages", kinds, onFiles, onKey, children }: Props) {
  const files = useRef<HTMLInputElement>(null);
  return (
    <>
      <button type="button" className={className} onClick={() => files.current?.click()} onKeyDown={onKey}>
        {children}
      </button>
      <input
        ref={files}
        type="file"
        multiple
        hidden
        accept={ACCEPTED[kinds]}
        aria-label={label}
        onChange={(event) => {
          onFiles([...(event.target.files ?? [])]);
          event.target.value = "";
        }}
      />
    </>
  );
}
