import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Form, Input, Upload } from "antd";
import { useState } from "react";
import { Moment } from "../../folio/Moment";
import { answer, api, type Schemas } from "../../shared/api/client";
import { putFile } from "../../shared/api/putFile";
import { queryKeys } from "../../shared/queryKeys";
import { dayAndTime, serverNow, wallTime } from "../../shared/time";
import { Button } from "../../shared/ui/Button";
import { Dialog } from "../../shared/ui/Dialog";
import { Trouble } from "../../shared/ui/Trouble";
import { count } from "../../shared/words";

interface TakeInProps {
  assignmentId: number;
  zone: string;
  line: Schemas["FolioLine"];
  onClose: () => void;
}

/** Pages that came another way (on paper by post, from a broken phone), handed in for the student. */
export function TakeIn({ assignmentId, zone, line, onClose }: TakeInProps) {
  const queries = useQueryClient();
  const [reason, setReason] = useState("");
  const [countsAt, setCountsAt] = useState(wallTime(new Date(serverNow()).toISOString(), zone));
  const [files, setFiles] = useState<File[]>([]);
  const [sent, setSent] = useState(0);
  const take = useMutation({
    mutationFn: async () => {
      const path = { assignment_id: assignmentId, person_id: line.person_id };
      setSent(0);
      const taking = await answer(api.POST("/api/assignments/{assignment_id}/people/{person_id}/taking-in", { params: { path }, body: { reason, counts_at: countsAt } }));
      for (const [number, file] of files.entries()) {
        await putFile(`/api/taking-in/${taking.id}/originals`, file).catch((error: Error) => {
          throw new Error(`${file.name}: ${error.message} What is safe is not sent twice.`);
        });
        setSent(number + 1);
      }
      return answer(api.POST("/api/taking-in/{taken_id}/hand-in", { params: { path: { taken_id: taking.id } } }));
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: queryKeys.folioList(assignmentId) }),
  });
  return (
    <Dialog title={`Take pages in for ${line.student}`} onClose={onClose}>
      {take.isSuccess ? (
        <p role="status">
          Handed in as edition {take.data.number}
          {take.data.verdict === "late" ? ", late" : ", in time"}. It counts as of {dayAndTime(take.data.counts_at ?? take.data.handed_in_at, zone)};{" "}
          {line.student} is told.
        </p>
      ) : (
        <Form layout="vertical" requiredMark={false} onFinish={() => take.mutate()}>
          <Form.Item label="Photographs or PDFs, in their order">
            <Upload
              accept="image/*,application/pdf,.heic,.heif"
              multiple
              fileList={files.map((file, number) => ({ uid: String(number), name: file.name, status: number < sent ? "done" : undefined }))}
              beforeUpload={(file) => {
                setFiles((now) => [...now, file]);
                return false;
              }}
              onRemove={(removed) => setFiles((now) => now.filter((_, number) => String(number) !== removed.uid))}
            >
              <Button>Choose files</Button>
            </Upload>
          </Form.Item>
          <Form.Item label="Why? It stands in the record and in the receipt." htmlFor="take-reason">
            <Input id="take-reason" maxLength={500} placeholder="came on paper by post" value={reason} onChange={(event) => setReason(event.target.value)} />
          </Form.Item>
          <Form.Item label={`The moment that counts, in ${zone.replaceAll("_", " ")}`} htmlFor="take-counts" extra="When it reached you, not when you send it here.">
            <Moment id="take-counts" value={countsAt} onChange={(wall) => wall && setCountsAt(wall)} />
          </Form.Item>
          <p className="soft">
            {line.edition === null ? "It becomes their edition 1." : `It is added behind edition ${line.edition}, as the next one.`} {line.student} is told and has the receipt.
          </p>
          <Button first type="submit" busy={take.isPending} disabled={files.length === 0 || reason.trim() === ""}>
            Hand in {count(files.length, "file")} for {line.student}
          </Button>
          {take.isPending && (
            <span role="status">
              {" "}
              {sent} of {count(files.length, "file")} safe
            </span>
          )}
        </Form>
      )}
      {take.error && <Trouble error={take.error} />}
    </Dialog>
  );
}
