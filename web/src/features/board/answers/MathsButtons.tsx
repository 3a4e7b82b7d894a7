interface Props {
  onInsert: (before: string, after: string) => void;
  /** In a field of its own, as one would write it. */
  onWrite: () => void;
}

/** What is typed for them, around what is selected. */
const PIECES = [
  { name: "Maths", sign: "$ $", before: "$", after: "$" },
  { name: "Maths on a line of its own", sign: "$$ $$", before: "\n\n$$\n", after: "\n$$\n\n" },
  { name: "Fraction", sign: "a/b", before: "\\frac{", after: "}{ }" },
  { name: "Square root", sign: "√", before: "\\sqrt{", after: "}" },
  { name: "Power", sign: "x²", before: "^{", after: "}" },
  { name: "Index", sign: "x₁", before: "_{", after: "}" },
  { name: "Integral", sign: "∫", before: "\\int_{", after: "}^{ }" },
  { name: "Sum", sign: "Σ", before: "\\sum_{", after: "}^{ }" },
  { name: "Vector", sign: "v⃗", before: "\\vec{", after: "}" },
  { name: "Degrees", sign: "°", before: "^\\circ", after: "" },
  { name: "Plus or minus", sign: "±", before: "\\pm ", after: "" },
  { name: "Pi", sign: "π", before: "\\pi ", after: "" },
  { name: "Theta", sign: "θ", before: "\\theta ", after: "" },
  { name: "Delta", sign: "Δ", before: "\\Delta ", after: "" },
] as const;

/** The usual signs by a press, for who does not know how they are typed. */
export function MathsButtons({ onInsert, onWrite }: Props) {
  return (
    <div className="maths-buttons" role="group" aria-label="Insert maths">
      <button type="button" className="maths-write" onClick={onWrite}>
        Write maths …
      </button>
      {PIECES.map(({ name, sign, before, after }) => (
        <button
          key={name}
          type="button"
          title={`${name}: ${(before + after).trim()}`}
          onPointerDown={(event) => event.preventDefault()} // the field keeps what is selected
          onClick={() => onInsert(before, after)}
        >
          <span aria-hidden="true">{sign}</span>
          <span className="unseen">{name}</span>
        </button>
      ))}
    </div>
  );
}
