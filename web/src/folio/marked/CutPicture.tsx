import type { ReactNode } from "react";
import type { InkShape } from "./ink";
import { UNITS } from "./ink";
import { InkShapes, inkWords } from "./InkShapes";
import "./CutPicture.css";

export interface PageCut {
  number: number;
  image: string;
  preview: string;
  width: number;
  height: number;
  top: number;
  bottom: number;
}

interface Props {
  cut: PageCut;
  ink: readonly InkShape[];
  /** What it answers, for the ear. */
  words: string;
  /** Whether the picture is wanted now; else its room is kept. The small one comes earlier than the whole one. */
  shows?: "nothing" | "small" | "whole";
  /** Lies over the picture in the same place: what draws on it. */
  children?: ReactNode;
}

/** A strip of a page with the ink on it. Its room does not change when the picture comes. */
export function CutPicture({ cut, ink, words, shows = "whole", children }: Props) {
  const ratio = cut.width > 0 ? cut.height / cut.width : 1.414;
  const share = Math.max(0.01, cut.bottom - cut.top);
  const style = { aspectRatio: `1 / ${ratio * share}` };
  const whole = { height: `${100 / share}%`, top: `${(-100 * cut.top) / share}%` };
  const drawn = inkWords(ink);
  return (
    <div className="cut" style={style}>
      {shows !== "nothing" && cut.preview && <img className="cut-picture" style={whole} src={cut.preview} alt="" aria-hidden="true" draggable={false} />}
      {shows === "whole" && cut.image && (
        <img className="cut-picture" style={whole} src={cut.image} alt={`${words}, page ${cut.number}${drawn ? `; on it: ${drawn}` : ""}`} draggable={false} decoding="async" />
      )}
      {!cut.image && <p className="cut-waiting soft">Safe on the server. Being straightened …</p>}
      {shows !== "nothing" && ink.length > 0 && (
        <svg className="cut-ink" style={whole} viewBox={`0 0 ${UNITS} ${UNITS * ratio}`} preserveAspectRatio="none" aria-hidden="true">
          <InkShapes ink={ink} ratio={ratio} />
        </svg>
      )}
      {children}
    </div>
  );
}
