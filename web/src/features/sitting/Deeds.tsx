import { useMutation } from "@tanstack/react-query";
import { Input, InputNumber } from "antd";
import { useState } from "react";
import { answer, api } from "../../shared/api/client";
import { useGivingTime } from "../../folio/useGivingTime";
import { Button } from "../../shared/ui/Button";
import { Dialog } from "../../shared/ui/Dialog";
import { Trouble } from "../../shared/ui/Trouble";
import { count, list } from "../../shared/words";
import { OwnTerms } from "./OwnTerms";
import type { Line } from "./useSitting";

interface Props {
  assignmentId: number;
  timed: boolean;
  running: Line[];
  begun: Line[];
  /** Begun or not. */
  chosen: Line[];
  zone: string;
  onChoose: (people: number[]) => void;
}

/** Time and a word, to those who are chosen or to all; both are in the record. */
export function Deeds({ assignmentId, timed, running, begun, chosen, zone, onChoose }: Props) {
  const [sheet, setSheet] = useState<"time" | "word" | "terms" | null>(null);
  const sitting = chosen.filter((one) => one.folio_id !== null);
  const nobodySits = chosen.length > 0 && sitting.length === 0;
  return (
    <footer className="sitting-foot">
      <span>{chosen.length === 0 ? "Nobody chosen" : `${count(chosen.length, "student")} chosen`}</span>
      <button
        type="button"
        className="plain"
        disabled={begun.length === 0}
        onClick={() => onChoose(chosen.length > 0 ? [] : (timed ? running : begun).map((one) => one.person_id))}
      >
        {chosen.length > 0 ? "Choose nobody" : timed ? "Choose all who are running" : "Choose all who have begun"}
      </button>
      <span className="sitting-gap" />
      <Button disabled={chosen.length === 0} onClick={() => setSheet("terms")}>
        Own terms …
      </Button>
      <Button disabled={begun.length === 0 || nobodySits} onClick={() => setSheet("word")}>
        {chosen.length > 0 ? "A word to them" : "A word to all"}
      </Button>
      {timed && (
        <Button first disabled={running.length === 0 || nobodySits} onClick={() => setSheet("time")}>
          {chosen.length > 0 ? "Give them time …" : "Give all time …"}
        </Button>
      )}
      {sheet === "time" && <GiveTime {...{ assignmentId, running }} chosen={sitting} onClose={() => setSheet(null)} />}
      {sheet === "word" && <SayWord assignmentId={assignmentId} chosen={sitting} onClose={() => setSheet(null)} />}
      {sheet === "terms" && <OwnTerms {...{ assignmentId, chosen, zone }} whom={whom(chosen, "")} onClose={() => setSheet(null)} />}
    </footer>
  );
}

function whom(chosen: Line[], all: string): string {
  const few = chosen.slice(0, 3).map((one) => one.name);
  return chosen.length === 0 ? all : chosen.length > 3 ? `${few.join(", ")} and ${chosen.length - 3} more` : list(few);
}

type DeedProps = Pick<Props, "assignmentId" | "chosen"> & { onClose: () => void };

function GiveTime({ assignmentId, running, chosen, onClose }: DeedProps & Pick<Props, "running">) {
  const [minutes, setMinutes] = useState(10);
  const give = useGivingTime(assignmentId);
  return (
    <Dialog title="Give time" onClose={onClose}>
      {give.isSuccess ? (
        <p role="status">
          {count(minutes, "minute")} given to {count(give.data.folios, "sitting")}. They see it now.
        </p>
      ) : (
        <>
          <p>
            To <strong>{whom(chosen, `all ${running.length} who are running`)}</strong>. What runs ends later by that; time that was
            given cannot be taken back.
          </p>
          <p className="sitting-form">
            <InputNumber aria-label="Minutes" min={1} max={600} precision={0} suffix="min" value={minutes} onChange={(value) => setMinutes(value ?? 1)} />
            <Button first busy={give.isPending} onClick={() => give.mutate({ minutes, folioIds: foliosOf(chosen) })}>
              Give {count(minutes, "minute")}
            </Button>
          </p>
        </>
      )}
      {give.error && <Trouble error={give.error} />}
    </Dialog>
  );
}

function SayWord({ assignmentId, chosen, onClose }: DeedProps) {
  const [text, setText] = useState("");
  const say = useMutation({
    mutationFn: () => {
      const body = { text, folio_ids: foliosOf(chosen) };
      return answer(api.POST("/api/assignments/{assignment_id}/word", { params: { path: { assignment_id: assignmentId } }, body }));
    },
  });
  return (
    <Dialog title="A word" onClose={onClose}>
      {say.isSuccess ? (
        <p role="status">It goes to {count(say.data.folios, "board")} now. The list says “not seen yet” until the board has shown it.</p>
      ) : (
        <>
          <p>
            To <strong>{whom(chosen, "all who have begun")}</strong>, on their boards at once.
          </p>
          <Input.TextArea
            aria-label="The word"
            rows={3}
            maxLength={500}
            showCount
            placeholder="In question 2b read 52° for 25°."
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
          <p className="sitting-form">
            <Button first busy={say.isPending} disabled={text.trim() === ""} onClick={() => say.mutate()}>
              Say it
            </Button>
          </p>
        </>
      )}
      {say.error && <Trouble error={say.error} />}
    </Dialog>
  );
}

function foliosOf(chosen: Line[]): number[] | null {
  return chosen.length === 0 ? null : chosen.flatMap((one) => one.folio_id ?? []);
}
