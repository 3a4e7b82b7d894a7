import { useMutation } from "@tanstack/react-query";
import { Form, Input, Radio } from "antd";
import { useState } from "react";
import { Moment } from "../../folio/Moment";
import { answer, api, type Schemas } from "../../shared/api/client";
import { Problem } from "../../shared/api/problem";
import { dayAndTime, serverNow, wallTime } from "../../shared/time";
import { Button } from "../../shared/ui/Button";
import { Dialog } from "../../shared/ui/Dialog";
import { Trouble } from "../../shared/ui/Trouble";

type What = Schemas["AskIn"]["what"];
const DAY_MS = 86_400_000;

interface AskAgainProps {
  folio: Schemas["ReadingOut"];
  /** The page that is looked at; null where it is about all of it. */
  page: number | null;
  onClose: () => void;
  onAsked: () => void;
}

/** A page, or all of it, is wanted again: why, and until when. The student reads both. */
export function AskAgain({ folio, page, onClose, onAsked }: AskAgainProps) {
  const zone = folio.assignment.time_zone;
  const [what, setWhat] = useState<What>(page === null ? "all" : "page");
  const [reason, setReason] = useState("");
  const [until, setUntil] = useState(`${wallTime(new Date(serverNow() + 2 * DAY_MS).toISOString(), zone).slice(0, 11)}12:00`);
  const ask = useMutation({
    mutationFn: () => {
      const path = { folio_id: folio.folio_id, number: folio.edition ?? 0 };
      const body = { what, number: what === "page" ? page : null, reason, until };
      return answer(api.POST("/api/folios/{folio_id}/editions/{number}/askings", { params: { path }, body }));
    },
    onSuccess: onAsked,
  });
  const code = ask.error instanceof Problem ? ask.error.code : "";
  const choices = [
    ...(page === null ? [] : [{ value: "page", label: `Page ${page} again` }]),
    { value: "all", label: "All of it again" },
    { value: "place", label: "Which pages answer which question" },
  ];
  return (
    <Dialog title={`Ask ${folio.student} again`} onClose={onClose}>
      {ask.isSuccess ? (
        <p role="status">
          {folio.student} is told, and can send it until {dayAndTime(ask.data.until, zone)}. Edition {folio.edition} stays and counts until then.
        </p>
      ) : (
        <Form layout="vertical" requiredMark={false} onFinish={() => ask.mutate()}>
          <Form.Item label="What is wanted">
            <Radio.Group aria-label="What is wanted" options={choices} value={what} onChange={(event) => setWhat(event.target.value as What)} />
          </Form.Item>
          <Form.Item label="Why? The student reads this." htmlFor="ask-reason" {...(code === "reason" ? { validateStatus: "error" as const, help: ask.error?.message } : {})}>
            <Input.TextArea id="ask-reason" rows={2} maxLength={500} showCount value={reason} onChange={(event) => setReason(event.target.value)} />
          </Form.Item>
          <p className="ask-reasons">
            {reasonsFor(what, page).map((one) => (
              <button key={one} type="button" className="plain" onClick={() => setReason(one)}>
                {one}
              </button>
            ))}
          </p>
          <Form.Item
            label={`Until, in ${zone.replaceAll("_", " ")}`}
            htmlFor="ask-until"
            extra="Holds for this only: nothing else of the work’s times changes."
            {...(code === "until" || code === "field:until" ? { validateStatus: "error" as const, help: ask.error?.message } : {})}
          >
            <Moment id="ask-until" value={until} onChange={(wall) => wall && setUntil(wall)} />
          </Form.Item>
          <Button first type="submit" busy={ask.isPending} disabled={reason.trim() === ""}>
            Ask for it
          </Button>
        </Form>
      )}
      {ask.error && !["reason", "until", "field:until"].includes(code) && <Trouble error={ask.error} />}
    </Dialog>
  );
}

function reasonsFor(what: What, page: number | null): string[] {
  if (what === "place") return ["Please say which question each page answers."];
  if (what === "all") return ["Most pages cannot be read.", "These are the pages of another assignment."];
  return [`Page ${page} cannot be read.`, `Part of page ${page} is cut off.`, `Page ${page} belongs to another assignment.`];
}
