import { type RefObject, useEffect, useState } from "react";
import { frameHint, type Seen } from "./frameHint";

const [WIDE, TALL, EVERY_MS] = [64, 48, 500];

/** A word on what the viewfinder sees, while it sees it. */
export function Hint({ video }: { video: RefObject<HTMLVideoElement | null> }) {
  const [words, setWords] = useState("");
  useEffect(() => {
    const canvas = document.createElement("canvas");
    [canvas.width, canvas.height] = [WIDE, TALL];
    const context = canvas.getContext("2d", { willReadFrequently: true });
    let before: Seen | null = null;
    const look = () => {
      if (!context || !video.current?.videoWidth) return;
      context.drawImage(video.current, 0, 0, WIDE, TALL);
      const now = greyOf(context.getImageData(0, 0, WIDE, TALL));
      setWords(frameHint(now, before));
      before = now;
    };
    const timer = setInterval(look, EVERY_MS);
    return () => clearInterval(timer);
  }, [video]);
  return (
    <p className="shooting-hint" role="status">
      {words}
    </p>
  );
}

function greyOf({ data, width, height }: ImageData): Seen {
  const grey = new Uint8ClampedArray(width * height);
  // Rec. 601 luma weights
  for (let at = 0; at < grey.length; at += 1)
    grey[at] = 0.299 * (data[at * 4] ?? 0) + 0.587 * (data[at * 4 + 1] ?? 0) + 0.114 * (data[at * 4 + 2] ?? 0);
  return { width, height, grey };
}
