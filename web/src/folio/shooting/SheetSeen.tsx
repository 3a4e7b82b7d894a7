import { type RefObject, useEffect, useState } from "react";
import { type Sight, sheetWords } from "./sheetWords";

/** Asks what a small JPEG shows; throws where it cannot be asked. */
export type LookThrough = (jpeg: Blob) => Promise<Sight>;

const [LONG_SIDE, QUALITY, AFTER_TROUBLE_MS] = [1000, 0.6, 8000];

/** Which page of the printed paper the viewfinder sees, told by the server from small pictures, one after the other. */
export function SheetSeen({ video, look }: { video: RefObject<HTMLVideoElement | null>; look: LookThrough }) {
  const [words, setWords] = useState("");
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    let gone = false;
    const next = async () => {
      let wait = AFTER_TROUBLE_MS;
      try {
        const jpeg = document.hidden ? null : await smallPicture(video.current);
        const sight = jpeg && (await look(jpeg));
        wait = sight?.next_ms ?? 1000;
        if (!gone) setWords(sight ? sheetWords(sight) : "");
      } catch {
        if (!gone) setWords(""); // no network, or closed: the picture can be taken all the same
      }
      if (!gone) timer = setTimeout(() => void next(), wait);
    };
    void next();
    return () => {
      gone = true;
      clearTimeout(timer);
    };
  }, [video, look]);
  return (
    <p className="shooting-sheet" role="status">
      {words}
    </p>
  );
}

async function smallPicture(video: HTMLVideoElement | null): Promise<Blob | null> {
  if (!video?.videoWidth) return null;
  const canvas = document.createElement("canvas");
  const shrink = Math.min(1, LONG_SIDE / Math.max(video.videoWidth, video.videoHeight));
  [canvas.width, canvas.height] = [Math.round(video.videoWidth * shrink), Math.round(video.videoHeight * shrink)];
  canvas.getContext("2d")?.drawImage(video, 0, 0, canvas.width, canvas.height);
  return await new Promise((done) => canvas.toBlob(done, "image/jpeg", QUALITY));
}
