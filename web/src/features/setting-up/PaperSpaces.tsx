import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import { usePaperPages } from "../../folio/usePaperPages";
import type { Schemas } from "../../shared/api/client";
import { moved, type Sides, type Space, type Step } from "./spaceSides";
import "./PaperSpaces.css";

interface Props {
  assignmentId: number;
  /** Of each page, millimetres. */
  sizes: readonly Schemas["SheetSize"][];
  spaces: readonly Space[];
  /** The page that is shown, from 1. */
  page: number;
  onPage: (page: number) => void;
  onChange: (at: number, sides: Sides) => void;
  onRemove: (at: number) => void;
}

interface Held {
  at: number;
  what: Step["what"];
  from: { x: number; y: number };
  begun: Space;
}

/** The paper with the spaces on it: each is moved and drawn larger by pointer, by touch, and by arrow keys. */
export function PaperSpaces({ assignmentId, sizes, spaces, page, onPage, onChange, onRemove }: Props) {
  const [held, setHeld] = useState<Held | null>(null);
  const [chosen, setChosen] = useState(-1); // by touch a space is tapped first: else it would stop a finger that scrolls
  const sheet = useRef<HTMLDivElement>(null);
  const paper = usePaperPages(assignmentId);
  const number = Math.min(page, sizes.length);
  const size = sizes[number - 1];
  const picture = paper.data?.pages.find((one) => one.number === number);
  if (!size) return null;

  const hold = (event: PointerEvent, at: number, what: Step["what"]) => {
    const begun = spaces[at];
    if (!begun || event.button !== 0) return;
    if (event.pointerType === "touch" && what === "all" && chosen !== at) return;
    event.stopPropagation();
    event.currentTarget.setPointerCapture(event.pointerId);
    setHeld({ at, what, from: { x: event.clientX, y: event.clientY }, begun });
  };
  const move = (event: PointerEvent) => {
    const box = sheet.current?.getBoundingClientRect();
    if (!held || !box) return;
    const by = { x: ((event.clientX - held.from.x) / box.width) * size.width, y: ((event.clientY - held.from.y) / box.height) * size.height };
    onChange(held.at, moved(held.begun, { what: held.what, ...by }, size));
  };
  const press = (event: KeyboardEvent, at: number) => {
    const space = spaces[at];
    const step = ARROWS[event.key];
    if (event.key === "Delete") onRemove(at);
    else if (space && step) onChange(at, moved(space, { what: event.shiftKey ? "foot" : "all", ...step }, size));
    else return;
    event.preventDefault();
  };
  return (
    <div className="paper-spaces">
      {sizes.length > 1 && (
        <p className="paper-spaces-pages" role="group" aria-label="Page of the paper">
          {sizes.map((_, index) => (
            <button key={index} type="button" className="button button-small" aria-pressed={number === index + 1} onClick={() => onPage(index + 1)}>
              Page {index + 1}
            </button>
          ))}
        </p>
      )}
      <div className="paper-spaces-sheet" ref={sheet} style={{ aspectRatio: `${size.width} / ${size.height}` }}>
        {picture ? (
          <img src={picture.address} alt={`Page ${number} of the paper`} draggable={false} />
        ) : (
          <p className="soft">{paper.data?.state === "failed" ? "This page could not be drawn; its spaces can be moved all the same." : "The page is being drawn …"}</p>
        )}
        {spaces.map((space, at) =>
          space.page === number ? (
            <div key={`${space.label} ${at}`} className={["space-box", held?.at === at && "space-held", chosen === at && "space-chosen"].filter(Boolean).join(" ")} style={place(space, size)}>
              <button
                type="button"
                className="space-body"
                aria-label={`Space of ${space.label}: ${Math.round(space.left)} to ${Math.round(space.right)} mm from the left, ${Math.round(space.top)} to ${Math.round(space.bottom)} mm from the top`}
                onPointerDown={(event) => hold(event, at, "all")}
                onPointerMove={move}
                onPointerUp={() => setHeld(null)}
                onPointerCancel={() => setHeld(null)}
                onKeyDown={(event) => press(event, at)}
                onClick={() => setChosen(at)}
              >
                {space.label}
              </button>
              {(["head", "foot"] as const).map((what) => (
                <i
                  key={what}
                  className={`space-corner space-${what}`}
                  aria-hidden="true"
                  onPointerDown={(event) => hold(event, at, what)}
                  onPointerMove={move}
                  onPointerUp={() => setHeld(null)}
                  onPointerCancel={() => setHeld(null)}
                />
              ))}
            </div>
          ) : null,
        )}
      </div>
      <p className="soft">
        Drag a space (by touch, tap it first), or one of its corners. By keys: arrows move it by a millimetre, with Shift they draw its lower right corner, Delete removes it.
      </p>
    </div>
  );
}

const ARROWS: Record<string, { x: number; y: number } | undefined> = {
  ArrowLeft: { x: -1, y: 0 },
  ArrowRight: { x: 1, y: 0 },
  ArrowUp: { x: 0, y: -1 },
  ArrowDown: { x: 0, y: 1 },
};

function place(space: Space, size: Schemas["SheetSize"]) {
  return {
    left: `${(100 * space.left) / size.width}%`,
    top: `${(100 * space.top) / size.height}%`,
    width: `${(100 * (space.right - space.left)) / size.width}%`,
    height: `${(100 * (space.bottom - space.top)) / size.height}%`,
  };
}
