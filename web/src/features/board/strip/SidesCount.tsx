import { useId, useState } from "react";
import { count } from "../../shared/words";

interface Props {
  sides: number | null;
  pages: number;
  disabled: boolean;
  onChange: (sides: number | null) => void;
}

/** How many sides were written, where the student says so; the pages are held against it. */
export function SidesCount({ sides, pages, disabled, onChange }: Props) {
  const [text, setText] = useState(sides === null ? "" : String(sides));
  const id = useId();
  const tell = () => {
    const wanted = text.trim() === "" ? null : Math.min(500, Math.max(0, Math.round(Number(text)) || 0));
    if (wanted !== sides) onChange(wanted);
  };
  return (
    <p className="sides">
      <label htmlFor={id}>Sides written</label>
      <input
        id={id}
        type="number"
        inputMode="numeric"
        min={0}
        max={500}
        placeholder="–"
        value={text}
        disabled={disabled}
        onChange={(event) => setText(event.target.value)}
        onBlur={tell}
        onKeyDown={(event) => event.key === "Enter" && tell()}
      />
      <span className={sides !== null && sides !== pages ? "red" : "soft"} role="status">
        {sides === null && "say how many, and the board counts along"}
        {sides !== null && sides === pages && `all ${sides} are here`}
        {sides !== null && sides > pages && `${pages} of ${sides} here: ${count(sides - pages, "side")} missing`}
        {sides !== null && sides < pages && `${pages} here: ${pages - sides} more than you wrote`}
      </span>
    </p>
  );
}
