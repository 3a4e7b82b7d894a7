import { useId, useState } from "react";
import { useGivingTime } from "../../folio/useGivingTime";
import { Button } from "../../shared/ui/Button";
import { AskOnce } from "../../shared/ui/AskOnce";
import { NumberField } from "../../shared/ui/fields";
import { Trouble } from "../../shared/ui/Trouble";
import { count } from "../../shared/words";
import "./GiveTime.css";

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
            give.mutate({ minutes, folioIds: null });
          }}
        >
          {sittings} running now will end {count(minutes, "minute")} later. Time that was given cannot be taken back.
        </AskOnce>
      )}
    </div>
  );
}
