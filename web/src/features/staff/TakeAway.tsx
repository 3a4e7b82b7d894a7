import { Progress } from "antd";
import { Button, FileButton } from "../../shared/ui/Button";
import { useArchive } from "./useArchive";

const KINDS = [
  { what: "bound", words: "A bound PDF a student" },
  { what: "questions", words: "A PDF a question" },
  { what: "originals", words: "The files as they came" },
] as const;

/** All that was handed in, to take away: newest editions only. */
export function TakeAway({ assignmentId, handedIn }: { assignmentId: number; handedIn: number }) {
  const base = `/api/assignments/${assignmentId}/folios`;
  const archive = useArchive(assignmentId);
  const { written, of } = archive;
  return (
    <details className="take-away">
      <summary>Take all of it away</summary>
      <p className="soft">The newest edition of each student.</p>
      <p className="take-away-files">
        {KINDS.map(({ what, words }) => (
          <Button key={what} small busy={archive.isStarting} disabled={handedIn === 0} onClick={() => archive.fetch(what)}>
            {words}
          </Button>
        ))}
        <FileButton small href={`${base}.csv`}>This list as CSV</FileButton>
      </p>
      {archive.what !== null && (
        <div className="take-away-progress" role="status">
          <Progress percent={of === 0 ? 0 : Math.floor((100 * written) / of)} showInfo={false} status="normal" strokeColor="var(--ribbon)" aria-label="Written to the download" />
          <span>
            {KINDS.find(({ what }) => what === archive.what)?.words}:{" "}
            {of === 0 ? "being put together …" : written === of ? `all ${of} files are in the download` : `${written} of ${of} files written to the download`}
          </span>
        </div>
      )}
    </details>
  );
}
