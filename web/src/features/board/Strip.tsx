import { closestCenter, DndContext, type DragEndEvent, MouseSensor, TouchSensor, useSensor, useSensors } from "@dnd-kit/core";
import { horizontalListSortingStrategy, SortableContext, useSortable } from "@dnd-kit/sortable";
import { type CSSProperties, type ReactNode, useEffect, useId, useLayoutEffect, useRef, useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../shared/api/client";
import { clockTime } from "../../shared/time";
import { count } from "../../shared/words";
import { type Arrangement, labelsOn } from "./arrangement";
import { ACCEPTED } from "./accepted";
import { adviceOf, SHORT } from "./advice";
import { labelWords } from "./labelWords";
import type { Upload } from "../../shared/sending/UploadQueue";
import "./Strip.css";

type Page = Schemas["PageOut"];

const [HEAD_PX, GAP_PX] = [190, 11]; // as Strip.css has them, with the padding

interface Props {
  assignmentId: number;
  timeZone: string;
  questions: Schemas["QuestionOut"][];
  pages: Page[];
  coming: readonly Upload[];
  arrangement: Arrangement;
  chosen: number | null;
  mayAdd: boolean;
  onAdd: (files: File[]) => void;
  onChoose: (id: number, byMouse: boolean) => void;
  onMove: (id: number, to: number) => void;
  onKey: (event: React.KeyboardEvent) => boolean;
  children: ReactNode;
}

/** The pages in order as columns; what stands below (the ribbons) shares those columns. */
export function Strip(props: Props) {
  const { pages, coming, arrangement, chosen, onChoose, onMove, onKey } = props;
  const [wanted, setWidth] = useState<number | null>(null);
  const scroller = useRef<HTMLDivElement>(null);
  const [room, setRoom] = useState(0);
  useLayoutEffect(() => setRoom(scroller.current?.clientWidth ?? 0), []);
  const fitting = (room - HEAD_PX) / Math.max(1, pages.length + coming.length) - GAP_PX;
  const width = wanted ?? Math.round(Math.min(112, Math.max(64, fitting)));
  const sensors = useSensors(
    useSensor(MouseSensor, { activationConstraint: { distance: 6 } }),
    useSensor(TouchSensor, { activationConstraint: { delay: 250, tolerance: 8 } }),
  );
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    if (over && active.id !== over.id) onMove(Number(active.id), Number(over.id));
  };
  const columns = { "--column": `${width}px`, "--columns": pages.length + coming.length } as CSSProperties;
  return (
    <div className="strip-scroll" style={columns} ref={scroller}>
      <div className="strip-row">
        <StripHead {...props} width={width} onWidth={setWidth} />
        <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={onDragEnd}>
          <SortableContext items={pages.map((page) => page.id)} strategy={horizontalListSortingStrategy}>
            <ol className="strip" aria-label="Pages in order">
              {pages.map((page, index) => (
                <Tile
                  key={page.id}
                  page={page}
                  number={index + 1}
                  labels={labelWords(labelsOn(arrangement, page.id), props.questions)}
                  loose={arrangement.loose.includes(page.id)}
                  advice={adviceOf(page, arrangement)[0]}
                  chosen={page.id === chosen}
                  onChoose={onChoose}
                  onKey={onKey}
                />
              ))}
              {coming.map((one) => (
                <ComingTile key={one.key} upload={one} timeZone={props.timeZone} />
              ))}
            </ol>
          </SortableContext>
        </DndContext>
      </div>
      {props.children}
    </div>
  );
}

function StripHead(props: Props & { width: number; onWidth: (px: number) => void }) {
  const { pages, mayAdd, onAdd, width, onWidth } = props;
  const files = useRef<HTMLInputElement>(null);
  const sizeId = useId();
  return (
    <div className="strip-head">
      <p className="soft">{pages.length === 0 ? "No pages yet" : count(pages.length, "page")}</p>
      {mayAdd ? (
        <>
          <button type="button" className="plain" onClick={() => files.current?.click()}>
            Add pages
          </button>
          <input
            ref={files}
            type="file"
            multiple
            hidden
            accept={ACCEPTED}
            aria-label="Files to add as pages"
            onChange={(event) => {
              onAdd([...(event.target.files ?? [])]);
              event.target.value = "";
            }}
          />
          <p className="soft strip-hint">or drop or paste pictures and PDFs</p>
        </>
      ) : (
        <p className="soft">Closed for pages</p>
      )}
      <Link to={`/assignments/${props.assignmentId}`} className="strip-brief">
        Brief and questions
      </Link>
      <label htmlFor={sizeId} className="soft strip-size">
        Size
        <input
          id={sizeId}
          type="range"
          min={60}
          max={240}
          value={width}
          onChange={(event) => onWidth(Number(event.target.value))}
        />
      </label>
    </div>
  );
}

interface TileProps {
  page: Page;
  number: number;
  labels: string;
  loose: boolean;
  advice: Schemas["AdviceOut"] | undefined;
  chosen: boolean;
  onChoose: (id: number, byMouse: boolean) => void;
  onKey: (event: React.KeyboardEvent) => boolean;
}

function Tile({ page, number, labels, loose, advice: first, chosen, onChoose, onKey }: TileProps) {
  const { setNodeRef, transform, transition, listeners, isDragging } = useSortable({ id: page.id });
  const button = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    if (!chosen) return;
    button.current?.scrollIntoView({ block: "nearest", inline: "nearest" });
    // Whoever walks the strip by keyboard takes the focus along.
    if (document.activeElement?.closest(".strip")) button.current?.focus({ preventScroll: true });
  }, [chosen]);
  const moved = transform ? `translateX(${Math.round(transform.x)}px)` : undefined;
  const folded = labels === "" && !loose;
  const words = labels || (loose ? "loose page" : "open");
  const advice = first ? SHORT[first.code] : "";
  return (
    <li ref={setNodeRef} className={isDragging ? "tile tile-dragged" : "tile"} style={{ transform: moved, transition }}>
      <button
        ref={button}
        type="button"
        className={`tile-sheet ${chosen ? "tile-chosen" : ""} ${folded ? "tile-folded" : ""}`}
        aria-label={`Page ${number}, ${[words, advice].filter(Boolean).join(", ")}`}
        aria-current={chosen}
        tabIndex={chosen ? 0 : -1}
        {...listeners}
        onClick={(event) => onChoose(page.id, event.detail > 0 && matchMedia("(pointer: fine)").matches)}
        onKeyDown={(event) => void onKey(event)}
      >
        {page.preview ? (
          <img src={page.preview} alt="" draggable={false} />
        ) : (
          <i className="tile-waiting" aria-hidden="true" />
        )}
      </button>
      <strong>{number}</strong>
      <span className={folded ? "red" : "soft"}>{words}</span>
      {advice && <span className="red">{advice}</span>}
    </li>
  );
}

function ComingTile({ upload, timeZone }: { upload: Upload; timeZone: string }) {
  return (
    <li className="tile tile-coming">
      <span className="tile-sheet">
        <span className="tile-name">{upload.file.name}</span>
        <progress max={1} value={upload.share} aria-label={`${upload.file.name} on its way`} />
      </span>
      <strong>·</strong>
      <span className={upload.waitsFor ? "red" : "soft"}>
        {upload.state}
        {upload.waitsFor && `, waiting for ${upload.waitsFor}`}
      </span>
      {upload.promised && <span>promised {clockTime(upload.promised, timeZone, true)}</span>}
      {!upload.kept && upload.state !== "safe" && <span className="red">keep this page open</span>}
    </li>
  );
}
