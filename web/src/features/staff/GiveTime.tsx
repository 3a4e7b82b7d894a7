import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useId, useState } from "react";
import { Button } from "../../shared/ui/Button";
import { answer, api } from "../../shared/api/client";
import { AskOnce } from "../../shared/ui/AskOnce";
import { NumberField } from "../../shared/ui/fields";
import { Trouble } from "../../shared/ui/Trouble";
import { count } from "../../shared/words";
import "./GiveTime.css";
import { queryKeys } from "../../shared/queryKeys";

/** Minutes for one running sitting, or for all that run; the students see it at once. */
export function useGivingTime(assignmentId: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ minutes, folioId }: { minutes: number; folioId: number | null }) => {
      const path = { assignment_id: assignmentId };
      const body = { minutes, folio_ids: folioId === null ? null : [folioId] };
      return answer(api.POST("/api/assignments/{assignment_id}/lengthen", { params: { path }, body }));
    },
    onSettled: () => queries.invalidateQueries({ queryKey: queryKeys.folioList(assignmentId) }),
  });
}

/** Time cannot be taken back, so it is asked once. */
export function GiveTime({ assignmentId, running }: { assignmentId: number; running: number }) {
  const [minutes, setMinutes] = useState(10);
  const give = useGivingTime(assignmentId);
  const [asking, setAsking] = useState(false);
  const id = useId();
  if (running === 0) return <p className="soft">No sitting is running just now.</p>;
  const sittings = count(running, "sitting");
  return (
    <div className="give-time">
      <span>
        <strong>{sittings}</strong> running.
      </span>
      <label htmlFor={id}>Give all of them</label>
      <NumberField id={id} min={1} max={600} value={minutes} onChange={(wanted) => setMinutes(wanted ?? 1)} />
      <span>more minutes</span>
      <Button small busy={give.isPending} onClick={() => setAsking(true)}>
        Give time
      </Button>
      {give.isSuccess && <span role="status">Given to {count(give.data.folios, "sitting")}. They see it now.</span>}
      {give.error && <Trouble error={give.error} />}
      {asking && (
        <AskOnce
          title={`Give ${minutes} more minutes?`}
          no="Not now"
          yes="Give the time"
          onNo={() => setAsking(false)}
          onYes={() => {
            setAsking(false);
            give.mutate({ minutes, folioId: null });
          }}
        >
          {sittings} running now will end {count(minutes, "minute")} later. Time that was given cannot be taken back.
        </AskOnce>
      )}
    </div>
  );
}
