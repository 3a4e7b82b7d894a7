import {
  type Announcements, closestCenter, DndContext, type DragEndEvent, MouseSensor, TouchSensor, type UniqueIdentifier, useSensor,
  useSensors,
} from "@dnd-kit/core";
import { horizontalListSortingStrategy, SortableContext } from "@dnd-kit/sortable";
import { type CSSProperties, type ReactNode, type RefObject, useMemo } from "react";
import { useLatest } from "../../../shared/useLatest";
import { adviceOf, SHORT } from "../../../folio/advice";
import { questionsByPage } from "../../../folio/arrangement";
import { labelWords } from "../../../folio/labelWords";
import type { Parts } from "../parts";
import "./Strip.css";
import { ComingTile, Tile } from "./Tile";
import { usePageDrag } from "./usePageDrag";

interface Props extends Pick<Parts, "board" | "pages" | "coming" | "arrangement" | "actions" | "at"> {
  ref: RefObject<HTMLDivElement | null>;
  head: ReactNode;
  /** Of a page's column, without the gap. */
  width: number;
  onChoose: (id: number, event: React.MouseEvent) => void;
  /** A page was dropped on the row of these questions. */
  onDropOnRow: (id: number, questions: string[]) => void;
  onKey: (event: React.KeyboardEvent) => boolean;
  /** Whether all is to be drawn: the first pages are there a frame earlier. */
  ready: boolean;
  children: ReactNode;
}
const FIRST_PAGES = 16;
const HOW_TO_DRAG = { draggable: "To move this page, press Alt with the arrow keys. To place it, type the labels of its questions." };

/** What is said of a page on its way, by its number and not by its id. */
function inWords(pages: () => Parts["pages"]): Announcements {
  const number = (id: UniqueIdentifier) => pages().findIndex((page) => page.id === Number(id)) + 1;
  return {
    onDragStart: ({ active }) => `Page ${number(active.id)} picked up.`,
    onDragOver: ({ active, over }) => (over ? `Page ${number(active.id)} is over place ${number(over.id)}.` : undefined),
    onDragEnd: () => undefined, // what was done is told by the board
    onDragCancel: ({ active }) => `Page ${number(active.id)} is where it was.`,
  };
}
/** While a page is dragged, the field scrolls only where the pointer is at its very edge (a share of its size). */
const ONLY_AT_THE_EDGES = { threshold: { x: 0.04, y: 0.03 } };

/** The same objects at every drawing: with new ones the library would have every tile drawn anew. */
const BY_MOUSE = { activationConstraint: { distance: 6 } };
const BY_TOUCH = { activationConstraint: { delay: 250, tolerance: 8 } };

/** The pages in order as columns; what stands below (the ribbons) shares those columns. */
export function Strip(props: Props) {
  const { board, pages, coming, arrangement, actions, at } = props;
  const chosen = pages[at]?.id;
  const latest = useLatest(props);
  const tileActions = useMemo(
    () => ({
      choose: (id: number, event: React.MouseEvent) => latest.current.onChoose(id, event),
      key: (event: React.KeyboardEvent) => void latest.current.onKey(event),
    }),
    [latest],
  );
  const sensors = useSensors(
    useSensor(MouseSensor, BY_MOUSE),
    useSensor(TouchSensor, BY_TOUCH),
  );
  const drag = usePageDrag();
  const announcements = useMemo(() => inWords(() => latest.current.pages), [latest]);
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    const questions = drag.end();
    if (questions) props.onDropOnRow(Number(active.id), questions);
    else if (over && active.id !== over.id) actions.drop(Number(active.id), Number(over.id));
  };
  const order = pages.map((page) => page.id).join();
  // eslint-disable-next-line react-hooks/exhaustive-deps -- a new list of the same pages would have every tile drawn anew
  const items = useMemo(() => pages.map((page) => page.id), [order]);
  const placed = useMemo(() => questionsByPage(arrangement), [arrangement]);
  const columns = { "--column": `${props.width}px`, "--columns": pages.length + coming.length } as CSSProperties;
  return (
    <div className="strip-scroll" style={columns} ref={props.ref}>
      <div className="strip-row">
        {props.head}
        <DndContext
          sensors={sensors}
          collisionDetection={closestCenter}
          autoScroll={ONLY_AT_THE_EDGES}
          accessibility={{ announcements, screenReaderInstructions: HOW_TO_DRAG }}
          onDragStart={({ active, activatorEvent }) => drag.start(items.indexOf(Number(active.id)), activatorEvent)}
          onDragEnd={onDragEnd}
          onDragCancel={() => void drag.end()}
        >
          <SortableContext items={items} strategy={horizontalListSortingStrategy}>
            <ol className="strip" aria-label="Pages in order">
              {(props.ready ? pages : pages.slice(0, FIRST_PAGES)).map((page, index) => {
                const first = adviceOf(page, arrangement)[0];
                return (
                  <Tile
                    key={page.id}
                    id={page.id}
                    preview={page.preview}
                    number={index + 1}
                    labels={labelWords(placed.get(page.id) ?? [], board.questions)}
                    loose={arrangement.loose.includes(page.id)}
                    advice={first ? SHORT[first.code] : ""}
                    noted={Boolean(arrangement.notes[page.id])}
                    chosen={page.id === chosen}
                    marked={actions.marked.includes(page.id)}
                    tileActions={tileActions}
                  />
                );
              })}
              {props.ready && coming.map((one) => (
                <ComingTile key={one.key} upload={one} timeZone={board.assignment.time_zone} />
              ))}
            </ol>
          </SortableContext>
        </DndContext>
      </div>
      {props.children}
    </div>
  );
}
