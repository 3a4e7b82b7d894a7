import { useRef, useState } from "react";
import type { Schemas } from "../../../shared/api/client";
import { type Arrangement } from "../../../folio/arrangement";
import { labelOf } from "../../../folio/labelWords";
import { Flags } from "./Flags";
import { Loupe } from "./Loupe";
import { useHeldKey } from "./useHeldKey";
import { STEP, useZoom } from "./useZoom";

/** Hold this key to see the picture as it came. */
export const COMPARE_KEY = "=";
const CLICK_PX = 5; // a pointer that moved less was no drag

interface Props {
  page: Schemas["PageOut"];
  number: number;
  /** On this page, in reading order, by id. */
  questions: string[];
  map: Schemas["QuestionOut"][];
  arrangement: Arrangement;
  advice: Schemas["AdviceOut"][];
  mayPlace: boolean;
  larger: boolean;
  /** None where there is nothing larger than this. */
  onLarger: ((larger: boolean) => void) | null;
  onBegin: (question: string, top: number | null) => void;
  onKey: (event: React.KeyboardEvent) => boolean;
}

/**
 * The page, large; the picture it was made from while a key or the button is held. A click says where the next answer
 * begins; its flag can be dragged. Where the page is larger than its view, dragging moves it.
 */
export function PagePicture(props: Props) {
  const { page, number, questions, map, arrangement, advice, mayPlace, larger, onLarger, onBegin } = props;
  const [before, setBefore] = useHeldKey(COMPARE_KEY);
  const [loupe, setLoupe] = useState(false);
  const view = useRef<HTMLDivElement>(null);
  const sheet = useRef<HTMLDivElement>(null);
  const widthByHeight = page.width && page.height ? page.width / page.height : 1 / Math.SQRT2;
  const zoom = useZoom(view, page.id, widthByHeight, larger);
  const shows = before && page.source !== "";
  const topOf = (question: string) => arrangement.placements[question]?.find((spot) => spot.page === page.id)?.top ?? null;
  const next = mayPlace ? questions.find((question) => topOf(question) === null) : undefined;

  const onPointerDown = (down: React.PointerEvent) => {
    if (down.button !== 0 || down.pointerType === "touch") return;
    const element = view.current;
    const start = { left: element?.scrollLeft ?? 0, top: element?.scrollTop ?? 0 };
    const pan = ({ clientX, clientY }: PointerEvent) =>
      element?.scrollTo(start.left - (clientX - down.clientX), start.top - (clientY - down.clientY));
    const done = () => {
      window.removeEventListener("pointermove", pan);
      window.removeEventListener("pointerup", done);
    };
    window.addEventListener("pointermove", pan);
    window.addEventListener("pointerup", done);
  };
  const pressed = useRef({ x: 0, y: 0 });
  const onClick = (event: React.MouseEvent) => {
    const box = sheet.current?.getBoundingClientRect();
    const moved = Math.hypot(event.clientX - pressed.current.x, event.clientY - pressed.current.y);
    if (next && box && moved < CLICK_PX) onBegin(next, (event.clientY - box.top) / box.height);
  };
  const hold = {
    onPointerDown: () => setBefore(true),
    onPointerUp: () => setBefore(false),
    onPointerLeave: () => setBefore(false),
    onKeyDown: (event: React.KeyboardEvent) => event.key === " " && setBefore(true),
    onKeyUp: () => setBefore(false),
    onBlur: () => setBefore(false),
  };
  return (
    <div className="panel-picture">
      <div className="panel-zoom">
        {onLarger && (
          <button type="button" className="plain" onClick={() => onLarger(!larger)} title={larger ? "-" : "+"}>
            {larger ? "Smaller" : "Larger"}
          </button>
        )}
        <button type="button" className="plain" onClick={() => zoom.zoomTo(1)} disabled={zoom.scale === 1}>
          Whole page
        </button>
        <button
          type="button"
          className="plain"
          onClick={() => zoom.zoomTo(zoom.fullWidth)}
          disabled={Math.abs(zoom.scale - zoom.fullWidth) < 0.01}
        >
          Full width
        </button>
        <button type="button" className="panel-step" aria-label="Zoom out" onClick={() => zoom.zoomTo(zoom.scale / STEP)}>
          −
        </button>
        <button type="button" className="panel-step" aria-label="Zoom in" onClick={() => zoom.zoomTo(zoom.scale * STEP)}>
          +
        </button>
        <button type="button" className="plain" aria-pressed={loupe} onClick={() => setLoupe(!loupe)}>
          {loupe ? "Loupe off" : "Loupe"}
        </button>
      </div>
      {/* eslint-disable-next-line jsx-a11y/no-noninteractive-element-interactions -- the board's keys work here too */}
      <div
        className={zoom.scale === 1 ? "panel-view panel-whole" : "panel-view"}
        ref={view}
        // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex -- a scrolling region must be reachable by key
        tabIndex={0}
        role="region"
        aria-label={`Page ${number}, large`}
        onKeyDown={(event) => void props.onKey(event)}
        onPointerDown={(event) => {
          pressed.current = { x: event.clientX, y: event.clientY };
          onPointerDown(event);
        }}
      >
        {page.image || page.preview ? (
          // eslint-disable-next-line jsx-a11y/click-events-have-key-events, jsx-a11y/no-static-element-interactions -- the flags are moved by key
          <div
            className={next && !shows ? "panel-sheet panel-asks" : "panel-sheet"}
            ref={sheet}
            style={{ width: zoom.width || undefined }}
            data-page={page.id}
            data-large=""
            onClick={onClick}
          >
            <img
              key={page.id} // else the picture before stays until the new one has come
              src={shows ? page.source : page.image || page.preview}
              srcSet={shows || !page.image ? undefined : bySize(page)}
              sizes={`${Math.round(zoom.width)}px`}
              width={shows ? page.found?.source_width : page.width}
              height={shows ? page.found?.source_height : page.height}
              alt={shows ? `Page ${number} as it came` : `Page ${number} as it will be read`}
              draggable={false}
              decoding="async"
            />
            {!shows && <Flags {...{ questions, map, topOf, sheet, mayPlace, onBegin }} ratio={1 / widthByHeight} />}
            {!shows && advice.map((one) => one.where && <Spot key={one.code} where={one.where} />)}
            {loupe && !shows && <Loupe image={page.image || page.preview} sheet={sheet} />}
          </div>
        ) : (
          <p className="soft panel-waiting">Safe on the server. Being straightened …</p>
        )}
        {(page.image || page.preview) && page.state === "waiting" && (
          <p className="panel-anew">{page.image ? "Making it anew …" : "Safe. The sharp page is coming …"}</p>
        )}
      </div>
      <p className="soft panel-below">
        {next && page.image && `Click where ${labelOf(next, map)} begins. `}
        {page.source && (
          <button type="button" className="plain panel-before" title={`Hold ${COMPARE_KEY}`} aria-pressed={before} {...hold}>
            Hold to see it as it came
          </button>
        )}
      </p>
    </div>
  );
}

const PREVIEW_LONG_SIDE_PX = 480; // as the core makes it (folio_core.page.limits)

/** The small picture where it is as sharp as the place it has, else the whole one: the browser chooses. */
function bySize({ preview, image, width, height }: Props["page"]): string | undefined {
  const small = Math.round(width * Math.min(1, PREVIEW_LONG_SIDE_PX / Math.max(width, height)));
  return preview && small > 0 ? `${preview} ${small}w, ${image} ${width}w` : undefined;
}

function Spot({ where: [left = 0, top = 0, width = 0, height = 0] }: { where: number[] }) {
  const style = { left: `${left * 100}%`, top: `${top * 100}%`, width: `${width * 100}%`, height: `${height * 100}%` };
  return <i className="panel-spot" style={style} aria-hidden="true" />;
}
