import { useRef } from "react";
import { adviceOf } from "../../../folio/advice";
import { CameraButton, FilesButton } from "./AddByPhone";
import { MoreOfPage } from "./LabelPad";
import { inReadingOrder } from "../../../folio/ordering";
import type { Parts } from "../parts";
import { PageAdvice } from "../page/PageAdvice";
import { PagePicture } from "../page/PagePicture";
import { PageTools } from "../page/PageTools";
import "../page/PagePanel.css";
import "./PhonePage.css";
import { Strip } from "../strip/Strip";
import { useSwipe } from "./useSwipe";
import { Talk } from "../../../folio/Talk";
import { PageWord } from "../../../folio/WordField";

interface Props extends Parts {
  takeAgain: (picture: File) => void;
  /** The code for a phone as camera, where this is none itself. */
  onCamera: (() => void) | null;
}

const TILE_PX = 58;

/** The board where there is little room: a page at a time; its questions are under the thumb (`PhonePad`). */
export function PhonePage(props: Props) {
  const { board, pages, coming, arrangement, actions, at, open, placing } = props;
  const strip = useRef<HTMLDivElement>(null);
  const page = pages[at];
  const swipe = useSwipe((by) => actions.walk(at + by));
  return (
    <div className="phone">
      {page && (
        <section aria-label={`Page ${at + 1}`}>
          <div className="phone-picture" {...swipe}>
            <PagePicture
              key={page.id}
              page={page}
              number={at + 1}
              questions={inReadingOrder(arrangement, page.id, board.questions)}
              map={board.questions}
              arrangement={arrangement}
              advice={adviceOf(page, arrangement)}
              mayPlace={placing}
              larger={false}
              onLarger={null}
              onBegin={(question, top) => actions.beginAt(question, page.id, top)}
              onKey={() => false}
            />
          </div>
          <PageAdvice page={page} number={at + 1} arrangement={arrangement} onChange={actions.change} />
          <MoreOfPage
            questions={board.questions}
            arrangement={arrangement}
            page={page.id}
            number={at + 1}
            disabled={!placing}
            onLoose={actions.loosen}
            onRunOn={actions.runOn}
            onLeaveBlank={(question, blank) => actions.leaveBlank([question], blank)}
          />
          <Talk folioId={board.id} page={page.id} words={board.words} zone={board.assignment.time_zone} />
          <PageWord page={page.id} number={at + 1} {...{ arrangement }} disabled={!placing} onChange={actions.change} />
          <PageTools
            page={page}
            number={at + 1}
            arrangement={arrangement}
            mayAdd={open}
            mayPlace={placing}
            isFirst={at === 0}
            isLast={at === pages.length - 1}
            onChange={actions.change}
            onShift={actions.shift}
            onRemove={actions.remove}
            onTakeAgain={props.takeAgain}
          />
        </section>
      )}
      {pages.length + coming.length > 0 && (
        <Strip
          ref={strip}
          head={null}
          ready
          {...{ board, pages, coming, arrangement, actions, at }}
          width={TILE_PX}
          onChoose={(id) => actions.look(id)}
          onDropOnRow={() => undefined}
          onKey={() => false}
        >
          {null}
        </Strip>
      )}
      {open && (
        <p className="phone-add">
          {pages.length === 0 && board.limits.kinds !== "pdf" && <CameraButton first add={props.add} />}
          <FilesButton kinds={board.limits.kinds} add={props.add} />
          {props.onCamera && board.limits.kinds !== "pdf" && (
            <button type="button" className="plain" onClick={props.onCamera}>
              Photograph by phone
            </button>
          )}
        </p>
      )}
      {pages.length > 1 && (
        <p className="soft phone-hint">
          Hold a page to move it.{" "}
          {placing && (
            <button type="button" className="plain" onClick={props.onOrder}>
              Put in order …
            </button>
          )}
        </p>
      )}
    </div>
  );
}
