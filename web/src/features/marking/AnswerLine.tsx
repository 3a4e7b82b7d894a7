import { memo, type RefObject, useRef, useState, useSyncExternalStore } from "react";
import { ReaderAnswer } from "../../folio/answers/ReaderAnswer";
import { CutPicture } from "../../folio/marked/CutPicture";
import { MarkTalk } from "../../folio/marked/MarkTalk";
import type { Schemas } from "../../shared/api/client";
import { list } from "../../shared/words";
import { DrawingLayer } from "./DrawingLayer";
import { Margin } from "./Margin";
import type { MarkingStore, ShownAnswer } from "./MarkingStore";
import type { Chosen } from "./tools";
import { useNear } from "./useNear";

interface Props {
  store: MarkingStore;
  name: string;
  /** Among all: so that the ear knows how many there are. */
  place: string;
  isAt: boolean;
  /** Whether the line is one student's among all (else one question's of a student). */
  byStudent: boolean;
  wholePages: boolean;
  tool: Chosen;
  finger: boolean;
  step: string;
  zone: string;
  said: readonly Schemas["SaidBefore"][];
  others: string;
  noting: boolean;
  roll: RefObject<HTMLElement | null>;
  onGo: (name: string) => void;
  onNext: (by: 1 | -1) => void;
  onNote: (noting: boolean) => void;
  onReload: () => void;
}

/** One answer on the roll: whose it is, its strips with ink, and its margin. */
export const AnswerLine = memo(function AnswerLine(props: Props) {
  const { store, name } = props;
  const answer = useSyncExternalStore(store.subscribe, () => store.answer(name));
  return answer && <Shown {...props} answer={answer} />;
});

function Shown({ answer, ...props }: Props & { answer: ShownAnswer }) {
  const { store, name, place, isAt, byStudent, wholePages, tool, finger, others, roll, onGo } = props;
  const line = useRef<HTMLLIElement>(null);
  const near = useNear(line, roll);
  const [further, setFurther] = useState(false);
  const { row } = answer;
  const cuts = row.cuts.length > 0 ? row.cuts : further || isAt ? row.may_be_on : [];
  const missed = row.more.filter((cut) => !row.cuts.some((one) => one.page === cut.page));
  const strips = wholePages ? distinctPages(cuts) : cuts;
  const pages = [...new Set(row.cuts.map((cut) => cut.number))];
  return (
    <li ref={line} data-answer={name} className={isAt ? "answer-line answer-line-at" : "answer-line"} aria-current={isAt}>
      <div className="answer-whose">
        <button type="button" className="plain answer-name" onClick={() => onGo(name)}>
          {byStudent ? row.student : row.label}
          <span className="unseen">, answer {place}</span>
        </button>
        <span className="soft">
          {!byStudent && row.title}
          {pages.length > 0 && ` ${pages.length === 1 ? "page" : "pages"} ${list(pages.map(String))}`}
          {row.on_screen && `${pages.length > 0 ? ", " : ""}on the screen`}
        </span>
        {row.state === "left_blank" && <span>left blank</span>}
        {row.state === "open" && <span className="red">nothing placed</span>}
        {others && <span className="answer-others">{others} is here</span>}
      </div>
      <div className="answer-strips">
        {strips.map((cut, at) => (
          <CutPicture key={`${cut.page} ${at}`} cut={cut} shows={near} ink={answer.ink.get(cut.page) ?? []} words={`${row.student}, answer to ${row.label}`}>
            {near !== "nothing" && (
              <DrawingLayer
                {...{ cut, tool, finger }}
                ink={answer.ink.get(cut.page) ?? []}
                onPick={() => onGo(name)}
                onDraw={(shape) => store.draw(name, cut.page, shape)}
                onErase={(key) => store.erase(name, cut.page, key)}
              />
            )}
          </CutPicture>
        ))}
        {row.on_screen && near !== "nothing" && <ReaderAnswer answer={row.on_screen} isAt={false} keep={() => undefined} />}
        {row.cuts.length === 0 && row.may_be_on.length > 0 && (
          <p className="soft">
            {further || isAt ? "It may stand on these pages, on which nothing is placed." : "It may stand on pages on which nothing is placed."}{" "}
            {!further && !isAt && (
              <button type="button" className="plain" onClick={() => setFurther(true)}>
                Show {row.may_be_on.length === 1 ? "it" : "them"}
              </button>
            )}
          </p>
        )}
        {row.cuts.length === 0 && row.may_be_on.length === 0 && !row.on_screen && <p className="answer-nothing soft">{row.state === "left_blank" ? "Left blank by the student." : "Nothing was handed in for it."}</p>}
        {missed.length > 0 && !wholePages && (
          <p className="answer-more">
            There is more ink on page {list(missed.map((cut) => String(cut.number)))}.{" "}
            <button type="button" className="plain" onClick={() => store.showMore(name, missed)}>
              Show it here
            </button>
          </p>
        )}
        {row.words.length > 0 && (
          <MarkTalk
            folioId={row.folio_id}
            question={{ id: row.question, label: row.label }}
            words={row.words}
            zone={props.zone}
            saying={{ ask: "Answer the question about the mark", field: "Your answer" }}
            onSaid={props.onReload}
          />
        )}
      </div>
      <Margin
        answer={answer}
        isAt={isAt}
        step={props.step}
        said={props.said}
        noting={props.noting && isAt}
        onGive={(given, seen) => store.give(name, given, seen)}
        onNext={props.onNext}
        onNote={props.onNote}
        onSettle={(keep) => store.settleClash(name, keep)}
        onDropRefused={() => store.dropRefused(name)}
      />
    </li>
  );
}

function distinctPages(cuts: Schemas["CutOut"][]): Schemas["CutOut"][] {
  return cuts.filter((cut, at) => cuts.findIndex((one) => one.page === cut.page) === at).map((cut) => ({ ...cut, top: 0, bottom: 1 }));
}
