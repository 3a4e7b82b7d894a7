import { type ComponentProps, useMemo, useRef } from "react";
import { useLatest } from "../../../shared/useLatest";
import { labelWords } from "../../../folio/labelWords";
import type { Parts } from "../parts";
import { Ribbons, type Weaving } from "./Ribbons";
import { Strip } from "../strip/Strip";
import { StripHead } from "../strip/StripHead";
import { GAP_PX, useColumnWidth } from "../strip/useColumnWidth";
import { useHeadDrag } from "./useHeadDrag";

interface Props extends Parts {
  /** The ribbons, and pages far to the right, come in the frame after the strip's first. */
  ready: boolean;
  proposed: ComponentProps<typeof Ribbons>["proposed"];
  questions: ComponentProps<typeof Ribbons>["questions"];
  answers: ComponentProps<typeof Ribbons>["answers"];
  onAnswer: (question: string) => void;
  onKey: (event: React.KeyboardEvent) => boolean;
  /** Typed where pages were just added: what is a label's goes to the label line. */
  toLine: (event: React.KeyboardEvent) => void;
  onCamera: () => void;
  /** By this device's own camera. */
  onHere: () => void;
  /** A page was chosen by pointer: typing goes on about it. */
  onChosen: () => void;
}

/** The strip of pages and the ribbons under it: one field of columns and rows, and all that is dragged over it. */
export function Loom(props: Props) {
  const { board, pages, coming, arrangement, actions, at } = props;
  const scroller = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useColumnWidth(scroller, pages.length + coming.length);
  const { begin, dragged } = useHeadDrag(({ questions, page: on, top }) => {
    if (top === null) actions.place(questions, [on], true);
    else actions.placeAt(questions, on, top);
  });
  const latest = useLatest({ actions, at, begin, onAnswer: props.onAnswer });
  const weaving = useMemo(
    (): Weaving => ({
      at: () => latest.current.at,
      place: (questions, on, placed) => latest.current.actions.place(questions, on, placed),
      leaveBlank: (questions, blank) => latest.current.actions.leaveBlank(questions, blank),
      openAnswer: (question) => latest.current.onAnswer(question),
      dragHead: (questions, event) => latest.current.begin(questions, event),
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
            coming={coming.length}
            mayAdd={props.open}
            mayPlace={props.placing}
            width={width}
            kinds={board.limits.kinds}
            onAdd={props.add}
            onKey={props.toLine}
            onOrder={props.onOrder}
            onCamera={props.onCamera}
            onHere={props.onHere}
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
        onDropOnRow={(id, questions) => actions.place(questions, [id], true)}
        onKey={props.onKey}
      >
        {props.ready && (
          <Ribbons
            questions={props.questions}
            answers={props.answers}
            arrangement={arrangement}
            proposed={props.proposed}
            columnPx={width + GAP_PX}
            weaving={weaving}
          />
        )}
      </Strip>
      {dragged && (
        <span className="loom-dragged" style={{ left: dragged.at.x, top: dragged.at.y }} aria-hidden="true">
          {labelWords(dragged.questions, board.questions)}
        </span>
      )}
    </div>
  );
}
