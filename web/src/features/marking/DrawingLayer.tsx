import { type PointerEvent, useRef, useState } from "react";
import { distanceTo, type InkPoint, inkPath, isSign, type InkShape, UNITS, WIDTHS } from "../../folio/marked/ink";
import type { PageCut } from "../../folio/marked/CutPicture";
import type { ShownInk } from "./MarkingStore";
import { mayDraw } from "./penNear";
import type { Chosen } from "./tools";
import { WordsAtSpot } from "./WordsAtSpot";

interface Props {
  cut: PageCut;
  ink: readonly ShownInk[];
  tool: Chosen;
  /** Whether a finger draws; else it scrolls. */
  finger: boolean;
  onPick: () => void;
  onDraw: (shape: { tool: InkShape["tool"]; points: InkPoint[]; width: number; text: string }) => void;
  onErase: (key: string) => void;
}

const LEAST_PX = 3; // a press that moves less chooses the answer and draws nothing
const ERASER = 0.012; // of the page's width

/**
 * Takes pen, mouse and finger over one strip of a page. While a line is drawn, it goes straight into the drawing: the
 * screen is not made anew for each point.
 */
export function DrawingLayer({ cut, ink, tool, finger, onPick, onDraw, onErase }: Props) {
  const drawing = useRef<{ id: number; points: InkPoint[]; box: DOMRect; moved: boolean; erased: Set<string> } | null>(null);
  const line = useRef<SVGPathElement>(null);
  const [spot, setSpot] = useState<InkPoint | null>(null);
  const ratio = cut.width > 0 ? cut.height / cut.width : 1.414;
  const share = Math.max(0.01, cut.bottom - cut.top);

  /** In shares of the page. */
  const at = (event: { clientX: number; clientY: number; pressure: number; pointerType: string }, box: DOMRect): InkPoint => [
    round((event.clientX - box.left) / box.width),
    round(cut.top + ((event.clientY - box.top) / box.height) * share),
    event.pointerType === "pen" ? Math.round(event.pressure * 1000) / 1000 : 0.5,
  ];
  const show = (points: InkPoint[]) => {
    if (!line.current || tool === "eraser") return;
    const shown = tool === "underline" ? straight(points) : points;
    line.current.setAttribute("d", inkPath({ tool, points: shown, width: WIDTHS[tool], text: "" }, ratio));
  };
  const rub = (point: InkPoint) => {
    for (const one of ink) {
      if (!one.isOwn || drawing.current?.erased.has(one.key) || distanceTo(one, spotOf(point), ratio) > ERASER) continue;
      drawing.current?.erased.add(one.key);
      onErase(one.key);
    }
  };
  function down(event: PointerEvent<HTMLDivElement>) {
    if (event.button !== 0 || !mayDraw(event.nativeEvent, finger)) return;
    const box = event.currentTarget.getBoundingClientRect();
    drawing.current = { id: event.pointerId, points: [at(event, box)], box, moved: false, erased: new Set() };
    event.currentTarget.setPointerCapture(event.pointerId);
    event.preventDefault();
    if (tool === "eraser") rub(at(event, box));
  }
  function move(event: PointerEvent<HTMLDivElement>) {
    const now = drawing.current;
    if (!now || now.id !== event.pointerId) return;
    for (const one of event.nativeEvent.getCoalescedEvents?.() ?? []) now.points.push(at(one, now.box));
    if (now.points.length === 1) now.points.push(at(event, now.box));
    const [first] = now.points;
    const last = now.points.at(-1);
    if (first && last) {
      const [[x, y], [toX, toY]] = [spotOf(first), spotOf(last)];
      now.moved ||= Math.hypot((toX - x) * now.box.width, ((toY - y) / share) * now.box.height) >= LEAST_PX;
    }
    if (tool === "eraser") {
      if (last) rub(last);
    } else if (!isSign(tool) && now.moved) show(now.points);
  }
  function up(event: PointerEvent<HTMLDivElement>) {
    const now = drawing.current;
    if (!now || now.id !== event.pointerId) return;
    drawing.current = null;
    line.current?.setAttribute("d", "");
    onPick();
    const [first] = now.points;
    if (tool === "eraser" || !first) return;
    if (tool === "text") setSpot(first);
    else if (isSign(tool)) onDraw({ tool, points: [first], width: WIDTHS[tool], text: "" });
    else if (now.moved) onDraw({ tool, points: thinned(tool === "underline" ? straight(now.points) : now.points), width: WIDTHS[tool], text: "" });
  }
  function cancel() {
    drawing.current = null;
    line.current?.setAttribute("d", "");
  }
  const whole = { height: `${100 / share}%`, top: `${(-100 * cut.top) / share}%` };
  return (
    <>
      <div className={`drawing-layer drawing-with-${tool}`} onPointerDown={down} onPointerMove={move} onPointerUp={up} onPointerCancel={cancel} onClick={onPick} role="presentation">
        <svg className="cut-ink" style={whole} viewBox={`0 0 ${UNITS} ${UNITS * ratio}`} preserveAspectRatio="none" aria-hidden="true">
          <path ref={line} className={tool === "pen" ? "ink-pen" : tool === "highlighter" ? "ink-highlighter" : "ink-line"} strokeWidth={tool === "eraser" || tool === "pen" ? undefined : WIDTHS[tool] * UNITS} />
        </svg>
      </div>
      {spot && (
        <WordsAtSpot
          left={spotOf(spot)[0]}
          top={(spotOf(spot)[1] - cut.top) / share}
          onDone={(text) => {
            setSpot(null);
            if (text) onDraw({ tool: "text", points: [spot], width: WIDTHS.text, text });
          }}
        />
      )}
    </>
  );
}

function round(share: number): number {
  return Math.round(Math.min(1.4, Math.max(-0.4, share)) * 100_000) / 100_000;
}

function spotOf([x = 0, y = 0]: InkPoint): [number, number] {
  return [x, y];
}

const LEVEL = 0.02; // of the page's height: a line that rises less was meant level

/** From the first point to the last. */
function straight(points: readonly InkPoint[]): InkPoint[] {
  const last = points.at(-1);
  if (!points[0] || !last) return [];
  const [[x, y], [toX, toY]] = [spotOf(points[0]), spotOf(last)];
  return [[x, y, 0.5], [toX, Math.abs(toY - y) < LEVEL ? y : toY, 0.5]];
}

const MOST_POINTS = 1500;

/** A line that went on for minutes is still one stroke. */
function thinned(points: InkPoint[]): InkPoint[] {
  const each = Math.ceil(points.length / MOST_POINTS);
  return each <= 1 ? points : points.filter((_, at) => at % each === 0 || at === points.length - 1);
}
