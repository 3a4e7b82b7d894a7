import { useRef } from "react";
import { ACCEPTED } from "../accepted";
import { adviceOf } from "../../../folio/advice";
import { LabelPad } from "./LabelPad";
import { inReadingOrder } from "../../../folio/ordering";
import type { Parts } from "../parts";
import { PageAdvice } from "../page/PageAdvice";
import { PagePicture } from "../page/PagePicture";
import { PageTools } from "../page/PageTools";
import "../page/PagePanel.css";
import "./PhonePage.css";
import { Strip } from "../strip/Strip";
import { useSwipe } from "./useSwipe";
import { PageWord } from "../../../folio/WordField";

interface Props extends Parts {
  takeAgain: (picture: File) => void;
}

const TILE_PX = 58;

/** The board where there is little room: a page at a time, its questions under the thumb. */
export function PhonePage(props: Props) {
  const { board, pages, coming, arrangement, actions, at, open, placing } = props;
  const strip = useRef<HTMLDivElement>(null);
  const page = pages[at];
  const swipe = useSwipe((by) => actions.walk(at + by));
  return (
    <div className="phone">
      <AddButtons open={open} first={pages.length === 0} add={props.add} />
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
      {page && (
        <section aria-label={`Page ${at + 1}`}>
          <div className="phone-walk">
            <button type="button" className="phone-turn" disabled={at === 0} onClick={() => actions.walk(at - 1)}>
              ← Before
            </button>
            <h2>
              Page {at + 1} <span className="soft">of {pages.length}</span>
            </h2>
            <button
              type="button"
              className="phone-turn"
              disabled={at === pages.length - 1}
              onClick={() => actions.walk(at + 1)}
            >
              Next →
            </button>
          </div>
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
          <LabelPad
            questions={board.questions}
            arrangement={arrangement}
            page={page.id}
            number={at + 1}
            disabled={!placing}
            onToggle={(question, on) => actions.place([question], [page.id], on)}
            onLoose={actions.loosen}
            onRunOn={actions.runOn}
            onLeaveBlank={(question, blank) => actions.leaveBlank([question], blank)}
          />
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

/** The camera first: that is what a phone is for here. */
function AddButtons({ open, first, add }: { open: boolean; first: boolean; add: (files: File[]) => void }) {
  const camera = useRef<HTMLInputElement>(null);
  const files = useRef<HTMLInputElement>(null);
  if (!open) return null;
  const taken = (event: React.ChangeEvent<HTMLInputElement>) => {
    add([...(event.target.files ?? [])]);
    event.target.value = "";
  };
  return (
    <p className="phone-add">
      <button type="button" className="phone-camera" onClick={() => camera.current?.click()}>
        {first ? "Photograph a page" : "Photograph the next page"}
      </button>
      <button type="button" className="plain" onClick={() => files.current?.click()}>
        Add pages
      </button>
      <input ref={camera} type="file" hidden accept="image/*" capture="environment" aria-label="Camera" onChange={taken} />
      <input ref={files} type="file" hidden multiple accept={ACCEPTED} aria-label="Files to add as pages" onChange={taken} />
    </p>
  );
}
