const RULINGS = [
  ["ruled", "ruled"],
  ["squared", "squared"],
  ["plain", "white"],
] as const;

/** Paper to print and write on, for who has none at hand. */
export function AnswerPaper({ assignmentId, named }: { assignmentId: number; named: boolean }) {
  return (
    <p className="answer-paper">
      Answer paper to print:{" "}
      {RULINGS.map(([ruling, word], at) => (
        <span key={ruling}>
          {at > 0 && " · "}
          <a href={`/api/assignments/${assignmentId}/answer-paper.pdf?ruling=${ruling}`} download>
            {word}
          </a>
        </span>
      ))}{" "}
      <span className="soft">PDF, four sides, a column for the labels{named ? ", your name and number on each" : ""}</span>
    </p>
  );
}
