import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Checkbox, Form, Input } from "antd";
import { useState } from "react";
import { Moment } from "../../folio/Moment";
import { answer, api, type Schemas } from "../../shared/api/client";
import { Problem } from "../../shared/api/problem";
import { queryKeys } from "../../shared/queryKeys";
import { clockTime, dayAndTime, wallTime } from "../../shared/time";
import { Button } from "../../shared/ui/Button";
import { Dialog } from "../../shared/ui/Dialog";
import { Trouble } from "../../shared/ui/Trouble";
import { count } from "../../shared/words";
import type { Line } from "./useSitting";

interface Props {
  assignmentId: number;
  chosen: Line[];
  whom: string;
  zone: string;
  onClose: () => void;
}

type Wanted = Omit<Schemas["PersonalTermsIn"], "people">;
const NONE: Wanted = { due: null, extra_time: "", extra_on_handover: false, extra_on_due: false, reason: "" };

/** Of this assignment only: another due moment, other extra time, for those who are chosen. */
export function OwnTerms({ assignmentId, chosen, whom, zone, onClose }: Props) {
  const queries = useQueryClient();
  const [only] = chosen;
  const [wanted, setWanted] = useState<Wanted>(() =>
    chosen.length === 1 && only ? { ...NONE, due: only.own_due && wallTime(only.own_due, zone), extra_time: only.own_extra_time, reason: only.own_reason } : NONE,
  );
  const put = (change: Partial<Wanted>) => setWanted((now) => ({ ...now, ...change }));
  const give = useMutation({
    mutationFn: (terms: Wanted) => {
      const body = { people: chosen.map((one) => one.person_id), ...terms };
      return answer(api.POST("/api/assignments/{assignment_id}/personal-terms", { params: { path: { assignment_id: assignmentId } }, body }));
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: queryKeys.sitting(assignmentId) }),
  });
  const nothing = wanted.due === null && (wanted.extra_time ?? "").trim() === "";
  const own = chosen.some((one) => one.own_due !== null || one.own_extra_time !== "");
  const code = give.error instanceof Problem ? give.error.code : "";
  const wrong = (field: string) =>
    code === `field:${field}` ? { validateStatus: "error" as const, help: give.error?.message } : {};
  return (
    <Dialog title="Their own terms" onClose={onClose}>
      {give.isSuccess ? (
        <p role="status">
          {count(give.data.people, "student")}: {give.variables === NONE ? "the same terms as the others again; what was begun keeps the later moment." : inTimes(give.data, zone)}
        </p>
      ) : (
        <Form layout="vertical" requiredMark={false}>
          <p className="own-terms-whom">
            For <strong>{whom}</strong>, for this assignment only. Whoever has begun gains by it and never loses.
            {own && chosen.length > 1 && " What some of them have of their own is replaced."}
          </p>
          <Form.Item label={`Due, in ${zone.replaceAll("_", " ")}`} htmlFor="own-due" {...wrong("due")}>
            <Moment id="own-due" value={wanted.due ?? null} clear onChange={(due) => put({ due })} />
          </Form.Item>
          <Form.Item label="Extra time, in the place of the course’s" htmlFor="own-extra" extra="×1.25, 25 %, 15 min, ×1.25 + 10 min" {...wrong("extra_time")}>
            <Input id="own-extra" maxLength={60} value={wanted.extra_time} onChange={(event) => put({ extra_time: event.target.value })} />
          </Form.Item>
          <Form.Item>
            <Checkbox checked={wanted.extra_on_handover ?? false} onChange={(event) => put({ extra_on_handover: event.target.checked })}>
              on handover too
            </Checkbox>
            <Checkbox checked={wanted.extra_on_due ?? false} onChange={(event) => put({ extra_on_due: event.target.checked })}>
              the due moment moves by as much
            </Checkbox>
          </Form.Item>
          <Form.Item label="Reason, which only staff see" htmlFor="own-reason">
            <Input id="own-reason" maxLength={200} value={wanted.reason} onChange={(event) => put({ reason: event.target.value })} />
          </Form.Item>
          <p className="sitting-form">
            <Button first busy={give.isPending} disabled={nothing} onClick={() => give.mutate(wanted)}>
              Give it
            </Button>
            {own && (
              <button type="button" className="plain" disabled={give.isPending} onClick={() => give.mutate(NONE)}>
                The same terms as the others again
              </button>
            )}
          </p>
        </Form>
      )}
      {give.error && !code.startsWith("field:") && <Trouble error={give.error} />}
    </Dialog>
  );
}

/** What it comes to, in times of day. */
function inTimes({ begins, writing_ends: writing, closes }: Schemas["PersonalTermsOut"], zone: string): string {
  if (writing === null) return `closes ${dayAndTime(closes, zone)}. They see it now.`;
  return `begun as it opens, ${dayAndTime(begins, zone)}, writing until ${clockTime(writing, zone)}, closes ${clockTime(closes, zone)}. They see it now.`;
}
