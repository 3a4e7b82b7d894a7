import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { Button } from "../../shared/ui/Button";
import { Trouble } from "../../shared/ui/Trouble";
import { count, list } from "../../shared/words";
import { useSettingUp } from "./useSettingUp";

interface Props {
  assignmentId: number;
  /** Whether there is no map yet. */
  empty: boolean;
  busy: boolean;
  onUse: (entries: { label: string; title: string; points: number | null }[]) => void;
}

/** What the question paper itself says of its questions, against the map as it is. */
export function Proposal({ assignmentId, empty, busy, onUse }: Props) {
  const paper = useSettingUp(assignmentId).data?.paper ?? null;
  const read = useQuery({
    queryKey: [...queryKeys.proposal(assignmentId), paper?.name],
    enabled: paper !== null,
    queryFn: () => {
      const path = { assignment_id: assignmentId };
      return answer(api.GET("/api/assignments/{assignment_id}/paper/proposal", { params: { path } }));
    },
  });
  if (read.isError) return <Trouble error={read.error} />;
  if (paper && read.isPending) return <p role="status">Reading the questions of {paper.name} …</p>;
  const told = read.data;
  if (!told) return null;
  if (!told.has_text)
    return <p className="soft">The paper is a picture without text, so its questions cannot be read from it yet. Type the map below.</p>;
  if (told.entries.length === 0) return <p className="soft">No numbered questions were found on the paper. Type the map below.</p>;
  const points = told.entries.reduce((all, one) => all + (one.points ?? 0), 0);
  const use = () => onUse(told.entries);
  if (empty)
    return (
      <div className="proposal">
        <p>
          The paper says <strong>{told.map}</strong>: {count(told.entries.length, "entry", "entries")}
          {points > 0 && `, ${points} points`}.
        </p>
        <ol>
          {told.entries.map((one) => (
            <li key={one.label}>
              <strong>{one.label}</strong> {one.title} <span className="soft">{one.points !== null && `${one.points} points · `}page {one.page + 1}</span>
            </li>
          ))}
        </ol>
        <Button first busy={busy} onClick={use}>
          Make this the question map
        </Button>
      </div>
    );
  if (told.missing.length + told.unknown.length === 0)
    return <p className="soft">Every question of the paper is on the map, and nothing else.</p>;
  return (
    <p className="proposal-differs">
      <span className="red">
        {[
          told.missing.length > 0 && `On the paper and not on the map: ${list(told.missing)}.`,
          told.unknown.length > 0 && `On the map and not found on the paper: ${list(told.unknown)}.`,
        ]
          .filter(Boolean)
          .join(" ")}
      </span>{" "}
      <button type="button" className="plain" disabled={busy} onClick={use}>
        Take the paper’s map, {told.map}
      </button>
    </p>
  );
}
