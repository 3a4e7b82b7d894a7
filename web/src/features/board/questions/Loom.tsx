import { useMemo, useRef } from "react";
import { useLatest } from "../../shared/useLatest";
import type { Parts } from "./parts";
import { Ribbons, type Weaving } from "./Ribbons";
import { Strip } from "./Strip";
import { StripHead } from "./StripHead";
import { GAP_PX, useColumnWidth } from "./useColumnWidth";
import { useHeadDrag } from "./useHeadDrag";

interface Props extends Parts {
  /** The ribbons, and pages far to the right, come in the frame after the strip's first. */
  ready: boolean;
  onKey: (event: React.KeyboardEvent) => boolean;
  /** Typed where pages were just added: what is a label's goes to the label line. */
  toLine: (event: React.KeyboardEvent) => void;
  onCamera: () => void;
  /** A page was chosen by pointer: typing goes on about it. */
  onChosen: () => void;
}

/** The strip of pages and the ribbons under it: one field of columns and rows, and all that is dragged over it. */
export function Loom(props: Props) {
  const { board, pages, coming, arrangement, actions, at } = props;
  const scroller = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useColumnWidth(scroller, pages.length + coming.length);
  const { begin, dragged } = useHeadDrag(({ labels, page: on, top }) => {
    if (top === null) actions.place(labels, [on], true);
    else actions.placeAt(labels, on, top);
  });
  const latest = useLatest({ actions, at, begin });
  const weaving = useMemo(
    (): Weaving => ({
      at: () => latest.current.at,
      place: (labels, on, placed) => latest.current.actions.place(labels, on, placed),
      leaveBlank: (labels, blank) => latest.current.actions.leaveBlank(labels, blank),
      dragHead: (labels, event) => latest.current.begin(labels, event),
    }),
    [latest],
  );
  return (
    <div className="board-columns">
      <Strip
        ref={scroller}
        head={
          <StripHead
            assignmentId={board.assignment.id}
            pages={pages.length}
            mayAdd={props.open}
            mayPlace={props.placing}
            width={width}
            onAdd={props.add}
            onKey={props.toLine}
            onOrder={props.onOrder}
            onCamera={props.onCamera}
            onWidth={setWidth}
          />
        }
        {...{ board, pages, coming, arrangement, actions, at }}
        width={width}
        ready={props.ready}
        onChoose={(id, event) => {
          if (event.shiftKey || event.ctrlKey || event.metaKey) actions.mark(id, event.shiftKey);
          else actions.look(id);
          if (event.detail > 0) props.onChosen();
        }}
        onDropOnRow={(id, labels) => actions.place(labels, [id], true)}
        onKey={props.onKey}
      >
        {props.ready && (
          <Ribbons
            questions={board.questions}
            arrangement={arrangement}
            columnPx={width + GAP_PX}
            weaving={weaving}
          />
        )}
      </Strip>
      {dragged && (
        <span className="loom-dragged" style={{ left: dragged.at.x, top: dragged.at.y }} aria-hidden="true">
          {dragged.labels.join(" ")}
        </span>
      )}
    </div>
  );
}
