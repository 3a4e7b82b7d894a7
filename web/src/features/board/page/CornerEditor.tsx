import { type CSSProperties, type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import { Dialog } from "../../../shared/ui/Dialog";
import { Button } from "../../../shared/ui/Button";
import type { Schemas } from "../../../shared/api/client";
import { type Corners, isOutline, matrixOnto, type Point } from "./homography";
import "./CornerEditor.css";

const NAMES = ["Top left", "Top right", "Bottom right", "Bottom left"] as const;
const LOUPE_ZOOM = 14; // the picture's longer side in the loupe's
const LOUPE_PX = 132;
const PREVIEW_PX = 250;

interface Props {
  page: Schemas["PageOut"];
  found: Schemas["FoundOut"];
  number: number;
  /** Null lets the finder look again. */
  onDone: (corners: number[][] | null) => void;
  onCancel: () => void;
}

/** Sets the corners of the sheet on the whole picture: by pointer with a loupe, or by keyboard. */
export function CornerEditor({ page, found, number, onDone, onCancel }: Props) {
  const [corners, setCorners] = useState(found.corners as unknown as Corners);
  const [active, setActive] = useState<number | null>(null);
  const picture = useRef<HTMLDivElement>(null);
  const { source_width: width, source_height: height } = found;

  const put = (at: number, [x, y]: Point) => {
    const inside: Point = [Math.min(Math.max(x, 0), width), Math.min(Math.max(y, 0), height)];
    const next = corners.map((corner, other) => (other === at ? inside : corner)) as unknown as Corners;
    if (isOutline(next)) setCorners(next);
  };
  const follow = (at: number) => (event: PointerEvent<HTMLButtonElement>) => {
    if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
    const box = picture.current?.getBoundingClientRect();
    if (box) put(at, [((event.clientX - box.left) / box.width) * width, ((event.clientY - box.top) / box.height) * height]);
  };
  const nudge = (at: number) => (event: KeyboardEvent) => {
    const step = (event.shiftKey ? 0.01 : 0.001) * Math.max(width, height);
    const ways: Record<string, Point> = {
      ArrowLeft: [-step, 0],
      ArrowRight: [step, 0],
      ArrowUp: [0, -step],
      ArrowDown: [0, step],
    };
    const by = ways[event.key];
    const corner = corners[at];
    if (!by || !corner) return;
    event.preventDefault();
    put(at, [corner[0] + by[0], corner[1] + by[1]]);
  };
  const whole: Corners = [[0, 0], [width, 0], [width, height], [0, height]];
  return (
    <Dialog title={`Corners of page ${number}`} width={1120} onClose={onCancel}>
      <div className="corners">
        <p className="soft">
          Drag each bracket onto a corner of the sheet
          <span className="corners-keys">, or choose one with Tab and nudge it with the arrows (Shift: ten times as far)</span>.
        </p>
      <div className="corners-table">
        <div ref={picture} className="corners-picture" style={{ aspectRatio: `${width} / ${height}` }}>
          <img src={page.source} alt="All that was photographed" draggable={false} />
          <svg viewBox={`0 0 ${width} ${height}`} aria-hidden="true">
            <path d={`M0 0H${width}V${height}H0Z M${corners.map((corner) => corner.join(" ")).join("L")}Z`} />
            <polygon points={corners.map((corner) => corner.join()).join(" ")} />
          </svg>
          {corners.map((corner, at) => (
            <button
              key={NAMES[at]}
              type="button"
              className={`corners-handle corners-${at}`}
              aria-label={`${NAMES[at]} corner, at ${Math.round((corner[0] / width) * 100)} % across and ${Math.round((corner[1] / height) * 100)} % down`}
              style={{ left: `${(corner[0] / width) * 100}%`, top: `${(corner[1] / height) * 100}%` }}
              onPointerDown={(event) => {
                event.currentTarget.setPointerCapture(event.pointerId);
                setActive(at);
              }}
              onPointerMove={follow(at)}
              onFocus={() => setActive(at)}
              onKeyDown={nudge(at)}
            />
          ))}
        </div>
        <div className="corners-aside">
          <Loupe source={page.source} corner={corners[active ?? 0] ?? whole[0]} of={[width, height]} name={NAMES[active ?? 0] ?? ""} />
          <Preview source={page.source} corners={corners} turn={found.turn} of={[width, height]} />
        </div>
      </div>
      <footer>
        <Button onClick={() => onDone(null)}>Find again</Button>
        <Button onClick={() => setCorners(whole)}>Use the whole picture</Button>
        <span className="corners-gap" />
        <Button onClick={onCancel}>Leave as it was</Button>
        <Button first onClick={() => onDone(corners.map((corner) => [...corner]))}>
          Keep these corners
        </Button>
      </footer>
      </div>
    </Dialog>
  );
}

interface Look {
  source: string;
  of: Point;
}

/** What lies under the chosen corner, enlarged, beside the picture: never in the way. */
function Loupe({ source, corner, of: [width, height], name }: Look & { corner: Point; name: string }) {
  const scale = (LOUPE_PX * LOUPE_ZOOM) / Math.max(width, height);
  const style: CSSProperties = {
    width: LOUPE_PX,
    height: LOUPE_PX,
    backgroundImage: `url(${source})`,
    backgroundSize: `${width * scale}px ${height * scale}px`,
    backgroundPosition: `${LOUPE_PX / 2 - corner[0] * scale}px ${LOUPE_PX / 2 - corner[1] * scale}px`,
  };
  return (
    <figure className="corners-near" aria-hidden="true">
      <i className="corners-loupe" style={style} />
      <figcaption className="soft">{name}, enlarged</figcaption>
    </figure>
  );
}

/** The page as it would be cut, at once. */
function Preview({ source, corners, turn, of: [width, height] }: Look & { corners: Corners; turn: number }) {
  const across = (length(corners[0], corners[1]) + length(corners[3], corners[2])) / 2;
  const down = (length(corners[1], corners[2]) + length(corners[0], corners[3])) / 2;
  const scale = PREVIEW_PX / Math.max(across, down);
  const [w, h] = [across * scale, down * scale];
  const shown = turn % 180 === 0 ? { width: w, height: h } : { width: h, height: w };
  return (
    <figure className="corners-preview">
      <div style={shown}>
        <div style={{ width: w, height: h, rotate: `${turn}deg`, translate: `${(shown.width - w) / 2}px ${(shown.height - h) / 2}px` }}>
          <img src={source} alt="" style={{ width, height, transform: matrixOnto(corners, w, h) }} />
        </div>
      </div>
      <figcaption className="soft">The page, as cut</figcaption>
    </figure>
  );
}

function length(a: Point, b: Point): number {
  return Math.hypot(a[0] - b[0], a[1] - b[1]);
}
