import { type RefObject, useEffect, useRef, useState } from "react";

export type Finder = "starting" | "live" | "none";

const WIDEST = 4096; // asked for; a camera gives what it has

/** The device's own camera, live, where the browser allows it: back camera first, as large as it gets. */
export function useViewfinder(video: RefObject<HTMLVideoElement | null>, on: boolean) {
  const [finder, setFinder] = useState<Finder>("starting");
  const stream = useRef<MediaStream | null>(null);
  useEffect(() => {
    if (!on) return;
    let gone = false;
    const start = async () => {
      try {
        // Only a secure page has it at all (W3C Media Capture and Streams).
        const wanted = { facingMode: { ideal: "environment" }, width: { ideal: WIDEST }, height: { ideal: WIDEST } };
        const got = await navigator.mediaDevices.getUserMedia({ video: wanted, audio: false });
        if (gone) return got.getTracks().forEach((track) => track.stop());
        stream.current = got;
        if (video.current) {
          video.current.srcObject = got;
          await video.current.play();
        }
        setFinder("live");
      } catch {
        if (!gone) setFinder("none");
      }
    };
    void start();
    return () => {
      gone = true;
      stream.current?.getTracks().forEach((track) => track.stop());
      stream.current = null;
    };
  }, [video, on]);

  /** The picture as the camera sees it now; null while it sees none. */
  const take = async (name: string): Promise<File | null> => {
    const seen = video.current;
    if (!seen?.videoWidth) return null;
    const canvas = document.createElement("canvas");
    [canvas.width, canvas.height] = [seen.videoWidth, seen.videoHeight];
    canvas.getContext("2d")?.drawImage(seen, 0, 0);
    const blob = await new Promise<Blob | null>((done) => canvas.toBlob(done, "image/jpeg", 0.92));
    return blob && new File([blob], name, { type: "image/jpeg", lastModified: Date.now() });
  };
  return { finder, take };
}
