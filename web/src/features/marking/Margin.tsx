import { AutoComplete, Input, type InputRef } from "antd";
import { useEffect, useRef, useState } from "react";
import { Prose } from "../../folio/Prose";
import { isStep, pointsWords, readPoints } from "../../folio/marked/pointsWords";
import type { Schemas } from "../../shared/api/client";
import { Button } from "../../shared/ui/Button";
import { type Given, ownMark, type ShownAnswer, versionOf } from "./MarkingStore";

interface Props {
  answer: ShownAnswer;
  isAt: boolean;
  step: string;
  said: readonly Schemas["SaidBefore"][];
  /** Whether the note is being written. */
  noting: boolean;
  /** `seen`: the version of the mark that stood there when one began to type. */
  onGive: (given: Given, seen: number) => void;
  onNext: (by: 1 | -1) => void;
  onNote: (noting: boolean) => void;
  onSettle: (keep: "theirs" | "mine") => void;
  onDropRefused: () => void;
}

/** The margin of one answer: its points in the marker's hand, and the note. */
export function Margin({ answer, isAt, step, said, noting, onGive, onNext, onNote, onSettle, onDropRefused }: Props) {
  const { row, given, theirs, refusal } = answer;
  const shown = given.points ?? (row.by_itself ? row.worth : null);
  return (
    <div className={shown === null ? "margin" : "margin margin-marked"}>
      {isAt ? (
        <PointsField key={`${row.folio_id} ${row.question}`} {...{ answer, step, onGive, onNext }} />
      ) : (
        <p className={shown === null ? "margin-points soft" : "margin-points"}>{shown === null ? <span className="unseen">no points yet</span> : pointsWords(shown)}</p>
      )}
      <About answer={answer} />
      {noting && isAt ? (
        <NoteField answer={answer} said={said} onGive={onGive} onDone={() => onNote(false)} />
      ) : (
        given.note && (
          <div className="margin-note">
            <Prose text={given.note} />
          </div>
        )
      )}
      {isAt && !noting && (
        <p className="margin-deeds">
          <button type="button" className="plain" onClick={() => onNote(true)}>
            {given.note ? "Change the note" : "Note"}
          </button>
        </p>
      )}
      {theirs && (
        <div className="margin-clash" role="alert">
          <p>
            <strong>{theirs.by}</strong> gave {theirs.points === null ? "no points" : pointsWords(theirs.points)} meanwhile.
          </p>
          <Button small onClick={() => onSettle("theirs")}>
            Keep theirs
          </Button>{" "}
          <Button small onClick={() => onSettle("mine")}>
            Give {given.points === null ? "none" : pointsWords(given.points)}
          </Button>
        </div>
      )}
      {refusal && (
        <div className="margin-clash" role="alert">
          <p className="red">{refusal}</p>
          <Button small onClick={onDropRefused}>
            Leave it as it was
          </Button>
        </div>
      )}
    </div>
  );
}

/** What there is to know of an answer's points, in few words. */
function About({ answer: { row, given, saving } }: { answer: ShownAnswer }) {
  const others = row.marks.filter((one) => !one.is_own && one.round !== row.round);
  const own = row.marks.find((one) => one.round === row.round);
  return (
    <>
      {row.by_itself && given.points === null && <p className="soft margin-about">{row.not_attempted ? "not attempted" : "by itself"}</p>}
      {given.notAttempted && <p className="soft margin-about">not attempted</p>}
      {row.look_again && given.points === null && (
        <p className="margin-about red">
          Look again: the answer is another one now{row.before !== null && ` (it had ${pointsWords(row.before)})`}
        </p>
      )}
      {row.differs && <p className="margin-about red">Two markers differ</p>}
      {others.map((one) => (
        <p key={one.round} className="margin-about soft">
          {one.by} ({one.round}): {one.points === null ? "no points" : pointsWords(one.points)}
        </p>
      ))}
      {row.round === "second" && <p className="margin-about soft">you mark it second</p>}
      {row.round === "settled" && <p className="margin-about soft">your points settle it</p>}
      {row.waits_for_other && <p className="margin-about soft">waits for a second marker</p>}
      {own && !own.is_own && given.points !== null && <p className="margin-about soft">by {own.by}</p>}
      {saving === "waiting" && <p className="margin-about soft">kept on this device</p>}
    </>
  );
}

type PointsProps = Pick<Props, "answer" | "step" | "onGive" | "onNext">;

/** Digits, then Enter. Letters are keys of the screen. */
function PointsField({ answer: { row, given }, step, onGive, onNext }: PointsProps) {
  const [typed, setTyped] = useState(given.points === null ? "" : given.points);
  const [wrong, setWrong] = useState("");
  const [shown, setShown] = useState(given.points);
  /** The version of the mark that stood there when typing began; null while nothing is typed. */
  const [began, setBegan] = useState<number | null>(null);
  const field = useRef<InputRef>(null);
  if (shown !== given.points) {
    // Changed from elsewhere: undone, settled, or given by somebody else, which takes nothing from one who is typing.
    setShown(given.points);
    if (began === null || (ownMark(row)?.is_own ?? true)) {
      setBegan(null);
      setTyped(given.points ?? "");
    }
  }
  useEffect(() => {
    // What is typed next stands in its place, not behind it.
    if (field.current?.input === document.activeElement && field.current?.input?.value === (shown ?? "")) field.current.select();
  }, [shown]);
  const give = (points: string | null) => {
    onGive({ ...given, points, notAttempted: false }, began ?? versionOf(row));
    setBegan(null);
  };
  function keep(): boolean {
    if (typed.trim() === "") {
      if (given.points !== null) give(null);
      return true;
    }
    const points = readPoints(typed);
    if (points === null) setWrong("Type a number, for example 2.5.");
    else if (!isStep(points, step)) setWrong(`Points go in steps of ${step}.`);
    else {
      if (points !== given.points) {
        setShown(points);
        give(points);
      }
      return true;
    }
    return false;
  }
  const above = Number(readPoints(typed) ?? 0) > row.most && row.most > 0;
  return (
      <div className="margin-field">
        <Input
          ref={field}
          // eslint-disable-next-line jsx-a11y/no-autofocus -- the answer that was gone to is the one to mark
          autoFocus
          className="points-field"
          inputMode="decimal"
          autoComplete="off"
          aria-label={`Points for ${row.student}, question ${row.label}, of ${row.most}`}
          aria-invalid={wrong !== ""}
          placeholder={row.by_itself && row.worth !== null ? pointsWords(row.worth) : ""}
          value={typed}
          maxLength={8}
          suffix={<span className="soft">of {pointsWords(row.most)}</span>}
          status={wrong ? "error" : undefined}
          onChange={({ target }) => {
            const text = target.value.replace(/[^0-9.,½¼¾−-]/g, "");
            setBegan(text === (shown ?? "") ? null : (began ?? versionOf(row)));
            setTyped(text);
            setWrong("");
          }}
          onFocus={({ target }) => target.select()}
          onBlur={() => void keep()}
          onKeyDown={(event) => {
            const to = { Enter: event.shiftKey ? -1 : 1, ArrowDown: 1, ArrowUp: -1 }[event.key] as 1 | -1 | undefined;
            if (to === undefined) return;
            event.preventDefault();
            event.stopPropagation();
            if (keep()) onNext(to);
          }}
        />
        {wrong && (
          <p role="alert" className="red">
            {wrong}
          </p>
        )}
        {above && !wrong && <p className="margin-about">more than {pointsWords(row.most)}</p>}
      </div>
  );
}

interface NoteProps {
  answer: ShownAnswer;
  said: Props["said"];
  onGive: Props["onGive"];
  onDone: () => void;
}

const OFFERED = 6;

/** A note, with what was said on this question before offered as one types; formulas between dollars. */
function NoteField({ answer: { row, given }, said, onGive, onDone }: NoteProps) {
  const [seen] = useState(() => versionOf(row));
  const [text, setText] = useState(given.note);
  const [open, setOpen] = useState(false);
  const words = text.trim().toLowerCase();
  const offered = said.filter((one) => one.text !== text && one.text.toLowerCase().includes(words)).slice(0, OFFERED);
  const done = (note: string) => {
    if (note.trim() !== given.note) onGive({ ...given, note: note.trim() }, seen);
    onDone();
  };
  return (
      <AutoComplete
        className="note-field"
        popupMatchSelectWidth={260}
        value={text}
        open={open && offered.length > 0}
        onOpenChange={setOpen}
        options={offered.map((one) => ({ value: one.text, label: `${one.text}${one.times > 1 ? ` · ${one.times} times` : ""}` }))}
        onChange={setText}
        onSelect={(chosen: string) => {
          setText(chosen);
          setOpen(false);
        }}
      >
        <Input.TextArea
          // eslint-disable-next-line jsx-a11y/no-autofocus -- the button or key that was pressed has become this field
          autoFocus
          rows={3}
          maxLength={4000}
          aria-label="Note at this answer"
          onBlur={() => done(text)}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key === "Escape") onDone();
            if (event.key === "Enter" && !event.shiftKey && !(open && offered.length > 0 && event.currentTarget.getAttribute("aria-activedescendant"))) {
              event.preventDefault();
              done(text);
            }
          }}
        />
      </AutoComplete>
  );
}
