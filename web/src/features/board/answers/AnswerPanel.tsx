import { useEffect, useRef } from "react";
import { type Arrangement, type Change, missingKinds, pagesOf, pagesWith, SCALES, setLeftBlank, setScale } from "../../../folio/arrangement";
import { type AnswerStore, NOT_ANSWERED, type ShownAnswer } from "../../../folio/answers/AnswerStore";
import { type Content, onScreen, takesPages } from "../../../folio/answers/content";
import type { GivenQuestion } from "../../../folio/answers/useAnswers";
import { Prose } from "../../../folio/Prose";
import { PictureWords } from "../../../folio/WordField";
import { later } from "../../../shared/ui/later";
import { clockTime } from "../../../shared/time";
import { count, list } from "../../../shared/words";
import { ChooseFiles } from "../strip/ChooseFiles";
import type { PageKinds } from "../accepted";
import "./AnswerPanel.css";
import { ChosenField } from "./ChosenField";
import { SetAsideAnswer } from "./SetAsideAnswer";
import { ShortField } from "./ShortField";
import { WrittenField } from "./WrittenField";

const Choice = later("Choice");

interface Props {
  folioId: number;
  question: GivenQuestion;
  answer: ShownAnswer | undefined;
  store: AnswerStore;
  arrangement: Arrangement;
  zone: string;
  kinds: PageKinds;
  disabled: boolean;
  /** Whether there is a question answered on the screen before it, and behind it. */
  before: boolean;
  after: boolean;
  onWalk: (by: 1 | -1) => void;
  onClose: (() => void) | null;
  /** Pictures of the working, to be placed on this question. */
  onPictures: (files: File[]) => void;
  onChange: (change: Change, words: string, joins?: string) => void;
}

/** A question that is answered on the screen: what is asked, the fields, and whether it is safe. */
export function AnswerPanel(props: Props) {
  const { question, answer = NOT_ANSWERED, store, arrangement, disabled } = props;
  const { content } = answer;
  const change = (wanted: Partial<Content>) => {
    store.change(question.id, wanted);
    // What is answered is not left blank.
    if (arrangement.left_blank.includes(question.id)) props.onChange(setLeftBlank(question.id, false), `${question.label} not left blank`);
  };
  const heading = useRef<HTMLHeadingElement>(null);
  useEffect(() => heading.current?.focus(), [question.id]);
  const kinds = onScreen(question);
  const missing = missingKinds(arrangement, question);
  return (
    <aside className="panel answer" aria-label={`Answer to ${question.label}`}>
      <header className="answer-head">
        <h2 ref={heading} tabIndex={-1}>
          {question.label} {question.title && <span className="answer-title">{question.title}</span>}
        </h2>
        <span className="soft">{count(question.points, "point")}</span>
      </header>
      {question.text && <Prose text={question.text} />}
      {kinds.includes("chosen") && <ChosenField {...{ question, content, disabled }} onChange={(chosen) => change({ chosen })} />}
      {kinds.includes("short") && <ShortField {...{ question, content, disabled }} onChange={(short) => change({ short })} />}
      {kinds.includes("written") && (
        <WrittenField key={question.id} {...{ question, content, disabled }} onChange={(written) => change({ written })} />
      )}
      <p className="answer-safety" role="status">
        <Safety answer={answer} zone={props.zone} disabled={disabled} />
      </p>
      {answer.refusal && <p className="red">{answer.refusal}</p>}
      {answer.setAside.map((aside) => (
        <SetAsideAnswer
          key={aside.id}
          folioId={props.folioId}
          {...{ aside, question, disabled }}
          zone={props.zone}
          onUse={() => change(aside.content as Content)}
        />
      ))}
      {question.kinds.includes("pictures") &&
        pagesWith(arrangement, question.id).map((page) => (
          <AtPicture key={page} {...props} page={page} number={pagesOf(arrangement).indexOf(page) + 1} />
        ))}
      {takesPages(question) && <OnPages {...props} isMissing={missing.some((kind) => kind === "pages" || kind === "pictures")} />}
      <footer className="answer-foot">
        <button type="button" className="plain" disabled={!props.before} onClick={() => props.onWalk(-1)}>
          ← Before
        </button>
        <button type="button" className="plain" disabled={!props.after} onClick={() => props.onWalk(1)}>
          Next on the screen →
        </button>
        {props.onClose && (
          <button type="button" className="plain answer-close" onClick={props.onClose}>
            Back to the pages
          </button>
        )}
      </footer>
    </aside>
  );
}

/** What is said of one picture of the working: its words, and how large it is bound. */
function AtPicture({ page, number, arrangement, disabled, onChange }: Pick<Props, "arrangement" | "disabled" | "onChange"> & { page: number; number: number }) {
  return (
    <>
      <PictureWords {...{ page, number, arrangement, disabled, onChange }} />
      <p className="answer-scale">
        <span className="soft">In the bound PDF</span>{" "}
        <Choice
          label={`How wide page ${number} is in the bound PDF`}
          value={String(arrangement.scales[page] ?? 1)}
          disabled={disabled}
          options={SCALES.map((scale) => ({ value: String(scale), label: SCALE_WORDS[scale] }))}
          onChange={(scale) => onChange(setScale(page, Number(scale)), `Page ${number} wider or narrower in the bound PDF`)}
        />
      </p>
    </>
  );
}

const SCALE_WORDS = { 1: "as wide as the page", 0.75: "three quarters as wide", 0.5: "half as wide" } as const;

function Safety({ answer, zone, disabled }: { answer: ShownAnswer; zone: string; disabled: boolean }) {
  const { saving, savedAt } = answer;
  if (saving === "saving") return <span className="soft">Saving …</span>;
  if (saving === "waiting") return <span className="red">No network: kept on this device, saved when it is back</span>;
  if (saving === "refused") return <span className="red">Not saved; kept on this device</span>;
  if (savedAt) return <span className="soft">Safe since {clockTime(savedAt, zone, true)}</span>;
  return <span className="soft">{disabled ? "Nothing was answered" : "Nothing answered yet; saved as you go"}</span>;
}

/** Where the same question is answered on pages too. */
function OnPages({ question, arrangement, kinds, disabled, isMissing, onPictures }: Props & { isMissing: boolean }) {
  const order = pagesOf(arrangement);
  const numbers = pagesWith(arrangement, question.id).map((page) => String(order.indexOf(page) + 1));
  const wants = question.kinds.includes("pictures") ? "Pictures of your working" : "Your working on paper";
  return (
    <p className="answer-pages">
      <strong>{wants}:</strong>{" "}
      {isMissing ? <span className="not-yet">no page yet.</span> : <>on {numbers.length === 1 ? "page" : "pages"} {list(numbers)}.</>}{" "}
      {!disabled && (
        <ChooseFiles className="plain" label={`Pictures of the working of ${question.label}`} kinds={kinds} onFiles={onPictures}>
          Add {question.kinds.includes("pictures") ? "a picture" : "a page"} to {question.label}
        </ChooseFiles>
      )}
    </p>
  );
}
