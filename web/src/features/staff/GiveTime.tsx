import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useId, useRef, useState } from "react";
import { Act } from "../../shared/Act";
import { answer, api } from "../../shared/api/client";
import { AskOnce } from "../../shared/AskOnce";
import { Trouble } from "../../shared/Trouble";
import { count } from "../../shared/words";
import "./GiveTime.css";

/** Minutes for one running sitting, or for all that run; the students see it at once. */
export function useGivingTime(assignmentId: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ minutes, folioId }: { minutes: number; folioId: number | null }) => {
      const path = { assignment_id: assignmentId };
      const body = { minutes, folio_id: folioId };
      return answer(api.POST("/api/assignments/{assignment_id}/lengthen", { params: { path }, body }));
    },
    onSettled: () => queries.invalidateQueries({ queryKey: ["folio-list", assignmentId] }),
  });
}

/** Time cannot be taken back, so it is asked once. */
export function GiveTime({ assignmentId, running }: { assignmentId: number; running: number }) {
  const [minutes, setMinutes] = useState(10);
  const give = useGivingTime(assignmentId);
  const asking = useRef<HTMLDialogElement>(null);
  const id = useId();
  if (running === 0) return <p className="soft">No sitting is running just now.</p>;
  const sittings = count(running, "sitting");
  return (
    <div className="give-time">
      <span>
        <strong>{sittings}</strong> running.
      </span>
      <label htmlFor={id}>Give all of them</label>
      <input
        id={id}
        type="number"
        min={1}
        max={600}
        value={minutes}
        onChange={(event) => setMinutes(Math.max(1, Math.min(600, Number(event.target.value))))}
      />
      <span>more minutes</span>
      <Act small busy={give.isPending} onClick={() => asking.current?.showModal()}>
        Give time
      </Act>
      {give.isSuccess && <span role="status">Given to {count(give.data.folios, "sitting")}. They see it now.</span>}
      {give.error && <Trouble error={give.error} />}
      <AskOnce
        ref={asking}
        title={`Give ${minutes} more minutes?`}
        no="Not now"
        yes="Give the time"
        onYes={() => give.mutate({ minutes, folioId: null })}
      >
        {sittings} running now will end {count(minutes, "minute")} later. Time that was given cannot be taken back.
      </AskOnce>
    </div>
  );
}
