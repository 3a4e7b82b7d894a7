import { useEffect, useMemo, useRef, useState } from "react";
import { Hint } from "./Hint";
import { type LookThrough, SheetSeen } from "./SheetSeen";
import "./Shooting.css";
import { useViewfinder } from "./useViewfinder";

interface Props {
  /** What the next picture is of: "page 4". */
  what: string;
  /** Of the file, without its ending. */
  name: string;
  /** What keeping it is called. */
  keep: string;
  /** What the device's own way of taking a picture is called; none where there is none. */
  own: { offer: string; label: string; without: string };
  onKeep: (picture: File) => void;
  /** Where a printed sheet is photographed, and nothing more urgent is on its way: who tells its pages. */
  look?: LookThrough | null;
}

/** Live where the browser can, else the device's own dialog; each picture is looked at before it goes. */
export function Shooting({ what, name, keep, own, onKeep, look = null }: Props) {
  const video = useRef<HTMLVideoElement>(null);
  const dialog = useRef<HTMLInputElement>(null);
  const [picture, setPicture] = useState<File | null>(null);
  const { finder, take } = useViewfinder(video, true);
  const again = () => {
    setPicture(null);
    if (finder === "none") dialog.current?.click();
  };
  return (
    <section aria-label="Camera" className="shooting">
      <div className="shooting-finder" hidden={finder === "none" || picture !== null}>
        <video ref={video} playsInline muted aria-label="What the camera sees" />
        <i className="shooting-frame" aria-hidden="true" />
        {finder === "live" && picture === null && <Hint video={video} />}
        {finder === "live" && picture === null && look && <SheetSeen {...{ video, look }} />}
      </div>
      {picture && <Look picture={picture} />}
      {!picture && finder === "none" && <p className="soft shooting-none">{own.without}</p>}
      <p className="shooting-buttons">
        {picture ? (
          <>
            <button type="button" className="shooting-second" onClick={again}>
              Take again
            </button>
            <button
              type="button"
              className="shooting-first"
              onClick={() => {
                onKeep(picture);
                setPicture(null);
              }}
            >
              {keep}
            </button>
          </>
        ) : (
          <>
            <button
              type="button"
              className="shooting-first"
              disabled={finder === "starting"}
              onClick={() => (finder === "live" ? void take(`${name}.jpg`).then(setPicture) : dialog.current?.click())}
            >
              Photograph {what}
            </button>
            {finder === "live" && (
              <button type="button" className="shooting-second" onClick={() => dialog.current?.click()}>
                {own.offer}
              </button>
            )}
          </>
        )}
      </p>
      <input
        ref={dialog}
        type="file"
        hidden
        accept="image/*"
        capture="environment"
        aria-label={own.label}
        onChange={(event) => {
          setPicture(event.target.files?.[0] ?? null);
          event.target.value = "";
        }}
      />
    </section>
  );
}

function Look({ picture }: { picture: File }) {
  const address = useMemo(() => URL.createObjectURL(picture), [picture]);
  useEffect(() => () => URL.revokeObjectURL(address), [address]);
  return <img className="shooting-look" src={address} alt="As it was just taken. Is all of the page in it, and sharp?" />;
}
