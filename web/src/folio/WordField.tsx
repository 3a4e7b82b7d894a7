import { useId, useRef, useState } from "react";
import { later } from "../shared/ui/later";
import { type Arrangement, type Change, setComment, setDescription, setNote } from "./arrangement";

const TextField = later("TextField");

/** The description of a picture that need not be described. */
const NOTHING_MORE = "Shows nothing that is not in the text.";

interface Props {
  label: string;
  /** The button that opens the field while there is nothing in it. */
  ask: string;
  most: number;
  value: string;
  disabled: boolean;
  /** `visit` is another one each time the field is entered. */
  onChange: (words: string, visit: string) => void;
}

interface WordProps {
  disabled: boolean;
  onChange: (change: Change, words: string, joins?: string) => void;
}

/** A word to the reader on the whole folio. */
export function FolioWord({ comment, disabled, onChange }: WordProps & { comment: string }) {
  return (
    <WordField
      label="A word to the reader"
      ask="Add a word to the reader"
      most={2000}
      value={comment}
      disabled={disabled}
      onChange={(words, visit) => onChange(setComment(words), "Word to the reader", visit)}
    />
  );
}

interface PageWordProps extends WordProps {
  page: number;
  number: number;
  arrangement: Arrangement;
}

/** A word to the reader on one page. */
export function PageWord({ page, number, arrangement, disabled, onChange }: PageWordProps) {
  const note = arrangement.notes[page] ?? "";
  return (
    <WordField
      key={page}
      label={`A word to the reader on page ${number}`}
      ask="Add a word to the reader on this page"
      most={500}
      value={note}
      disabled={disabled}
      onChange={(words, visit) => onChange(setNote(page, words), `Word to the reader on page ${number}`, visit)}
    />
  );
}

/** What a picture shows, for those who cannot see it. */
export function PictureWords({ page, number, arrangement, disabled, onChange }: PageWordProps) {
  const value = arrangement.descriptions[page] ?? "";
  return (
    <>
      <WordField
        key={page}
        label={`What page ${number} shows, for those who cannot see it`}
        ask={`Describe the picture on page ${number} for those who cannot see it`}
        most={500}
        value={value}
        disabled={disabled}
        onChange={(words, visit) => onChange(setDescription(page, words), `Description of page ${number}`, visit)}
      />
      {value === "" && (
        <button type="button" className="plain word-ask" disabled={disabled} onClick={() => onChange(setDescription(page, NOTHING_MORE), `Description of page ${number}`)}>
          It shows nothing that is not in the text
          <span className="unseen"> (page {number})</span>
        </button>
      )}
    </>
  );
}

/** Saved as it is typed; all that is typed in one visit is one step of the history. */
function WordField({ label, ask, most, value, disabled, onChange }: Props) {
  const [opened, setOpened] = useState(false);
  const id = useId();
  const visits = useRef(0);
  const [since] = useState(Date.now); // another one after a reload, which ends a visit
  if (value === "" && !opened) {
    return (
      <button type="button" className="plain word-ask" disabled={disabled} onClick={() => setOpened(true)}>
        {ask}
      </button>
    );
  }
  const visit = () => `${label} ${since} ${visits.current}`;
  return (
    <div className="word">
      <label htmlFor={id} className="soft">
        {label}
      </label>
      <TextField
        id={id}
        takesFocus={value === ""}
        most={most}
        value={value}
        disabled={disabled}
        onChange={(text) => {
          setOpened(true);
          onChange(text, visit());
        }}
        onBlur={() => {
          if (value.trim() !== value) onChange(value.trim(), visit());
          visits.current += 1;
          setOpened(false);
        }}
      />
    </div>
  );
}
