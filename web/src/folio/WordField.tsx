import { useId, useState } from "react";
import { later } from "../shared/ui/later";
import { type Arrangement, type Change, setComment, setNote } from "./arrangement";

const TextField = later("TextField");

interface Props {
  label: string;
  /** The button that opens the field while there is nothing in it. */
  ask: string;
  most: number;
  value: string;
  disabled: boolean;
  onChange: (words: string) => void;
}

interface WordProps {
  disabled: boolean;
  onChange: (change: Change, words: string) => void;
}

/** A word to the reader on the whole folio. */
export function FolioWord({ comment, disabled, onChange }: WordProps & { comment: string }) {
  return (
    <WordField
      key={comment}
      label="A word to the reader"
      ask="Add a word to the reader"
      most={2000}
      value={comment}
      disabled={disabled}
      onChange={(words) => onChange(setComment(words), "Word to the reader")}
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
      key={`${page} ${note}`}
      label={`A word to the reader on page ${number}`}
      ask="Add a word to the reader on this page"
      most={500}
      value={note}
      disabled={disabled}
      onChange={(words) => onChange(setNote(page, words), `Word to the reader on page ${number}`)}
    />
  );
}

/** Saved when the field is left, as one step of the history. */
function WordField({ label, ask, most, value, disabled, onChange }: Props) {
  const [text, setText] = useState(value);
  const [open, setOpen] = useState(value !== "");
  const id = useId();
  if (!open) {
    return (
      <button type="button" className="plain word-ask" disabled={disabled} onClick={() => setOpen(true)}>
        {ask}
      </button>
    );
  }
  return (
    <div className="word">
      <label htmlFor={id} className="soft">
        {label}
      </label>
      <TextField
        id={id}
        takesFocus={value === ""}
        most={most}
        value={text}
        disabled={disabled}
        onChange={setText}
        onBlur={() => {
          if (text.trim() !== value) onChange(text.trim());
          if (text.trim() === "") setOpen(false);
        }}
      />
    </div>
  );
}
