import { FileButton } from "../../shared/ui/Button";

/** All that was handed in, to take away: newest editions only. */
export function TakeAway({ assignmentId, handedIn }: { assignmentId: number; handedIn: number }) {
  const base = `/api/assignments/${assignmentId}/folios`;
  const zip = (what: string) => (handedIn > 0 ? `${base}.zip?what=${what}` : undefined);
  return (
    <details className="take-away">
      <summary>Take all of it away</summary>
      <p className="soft">The newest edition of each student. The browser shows how far a download is.</p>
      <p className="take-away-files">
        <FileButton small href={zip("bound")}>A bound PDF a student</FileButton>
        <FileButton small href={zip("questions")}>A PDF a question</FileButton>
        <FileButton small href={zip("originals")}>The files as they came</FileButton>
        <FileButton small href={`${base}.csv`}>This list as CSV</FileButton>
      </p>
    </details>
  );
}
