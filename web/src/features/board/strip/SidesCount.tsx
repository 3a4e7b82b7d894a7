import { useId } from "react";
import { later } from "../../../shared/ui/later";
import { count } from "../../../shared/words";

const NumberField = later("NumberField");

interface Props {
  sides: number | null;
  pages: number;
  disabled: boolean;
  onChange: (sides: number | null) => void;
}

/** How many sides were written, where the student says so; the pages are held against it. */
export function SidesCount({ sides, pages, disabled, onChange }: Props) {
  const id = useId();
  return (
    <p className="sides">
      <label htmlFor={id}>Sides written</label>
      <NumberField id={id} value={sides} min={0} max={500} placeholder="–" disabled={disabled} onChange={onChange} />
      <span className={sides !== null && sides !== pages ? "red" : "soft"} role="status">
        {sides === null && "say how many, and the board counts along"}
        {sides !== null && sides === pages && `all ${sides} are here`}
        {sides !== null && sides > pages && `${pages} of ${sides} here: ${count(sides - pages, "side")} missing`}
        {sides !== null && sides < pages && `${pages} here: ${pages - sides} more than you wrote`}
      </span>
    </p>
  );
}
