import { useState } from "react";
import type { Schemas } from "../shared/api/client";
import { dayAndTime } from "../shared/time";
import { Button } from "../shared/ui/Button";
import { Trouble } from "../shared/ui/Trouble";
import "./ChangedSince.css";
import { useHandIn } from "./useHandIn";

type Changed = Schemas["ChangedOut"];

interface ChangedSinceProps {
  folioId: number;
  changed: Changed;
  timeZone: string;
  /** On the receipt there is room to say all of it at once. */
  whole?: boolean;
}

/** The board differs from what was handed in: what, what becomes of it by itself, and the way to hand it in now. */
export function ChangedSince({ folioId, changed, timeZone, whole = false }: ChangedSinceProps) {
  const [told, setTold] = useState(whole);
  const handIn = useHandIn(folioId, changed.edition, changed.honour);
  return (
    <section className={whole ? "changed-since changed-since-whole" : "changed-since"} aria-label="Not handed in yet">
      <strong className="red" role="status">
        Changed since edition {changed.edition}, not handed in
      </strong>
      {changed.honour && <span className="changed-since-honour">You confirm again: “{changed.honour}”</span>}
      <Button small first={whole} busy={handIn.isPending} onClick={() => handIn.mutate("receipt")}>
        {changed.honour ? "Confirm and hand in again" : "Hand in again"}
      </Button>
      {!whole && (
        <button type="button" className="plain" aria-expanded={told} onClick={() => setTold(!told)}>
          {told ? "Less" : "What?"}
        </button>
      )}
      {told && (
        <p className="changed-since-end">
          {changed.what.join(" · ")}. <span className="soft">{ofItself(changed, timeZone)}</span>
        </p>
      )}
      {handIn.error && <Trouble error={handIn.error} />}
    </section>
  );
}

function ofItself({ by_itself, left_out, edition, ends }: Changed, timeZone: string): string {
  const end = dayAndTime(ends, timeZone);
  if (by_itself.length === 0) return `Edition ${edition} counts as it is. What you changed counts only when you hand it in, until ${end}.`;
  const taken = `By ${end} at the latest this is handed in by itself: ${by_itself.join(", ")}.`;
  if (left_out.length === 0) return taken;
  return `${taken} This counts only when you hand it in: ${left_out.join(", ")}.`;
}
