import { Input } from "antd";
import { useState } from "react";

interface Props {
  /** Shares of the strip. */
  left: number;
  top: number;
  onDone: (text: string) => void;
}

/** A line of words at the spot that was pressed; Enter leaves it there, Escape nothing. */
export function WordsAtSpot({ left, top, onDone }: Props) {
  const [text, setText] = useState("");
  return (
    <div className="words-at-spot" style={{ left: `${Math.min(70, left * 100)}%`, top: `${top * 100}%` }}>
        <Input
          // eslint-disable-next-line jsx-a11y/no-autofocus -- the spot that was pressed has become this field
          autoFocus
          size="small"
          aria-label="Words at this spot"
          maxLength={200}
          value={text}
          onChange={(event) => setText(event.target.value)}
          onBlur={() => onDone(text.trim())}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key === "Enter") onDone(text.trim());
            if (event.key === "Escape") onDone("");
          }}
        />
    </div>
  );
}
