import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Upload } from "antd";
import { useState } from "react";
import { QuestionPaper } from "../../folio/QuestionPaper";
import { csrfToken, type Schemas } from "../../shared/api/client";
import { Problem, problemFrom } from "../../shared/api/problem";
import { queryKeys } from "../../shared/queryKeys";
import { Trouble } from "../../shared/ui/Trouble";
import { count } from "../../shared/words";

type Work = Schemas["SettingUpOut"];

/** The question paper: dropped, looked at, replaced. A file that is none leaves the one before as it is. */
export function PaperBox({ work }: { work: Work }) {
  const queries = useQueryClient();
  const [looking, setLooking] = useState(false);
  const id = work.assignment.id;
  const put = useMutation({
    mutationFn: (file: File) => sendPaper(id, file),
    onSuccess: (now) => {
      queries.setQueryData(queryKeys.settingUp(id), now);
      void queries.invalidateQueries({ queryKey: queryKeys.questionPaper(id) });
      void queries.invalidateQueries({ queryKey: queryKeys.proposal(id) });
    },
  });
  const { paper } = work;
  return (
    <div className="paper-box">
      <Upload.Dragger
        accept="application/pdf,image/*"
        showUploadList={false}
        disabled={put.isPending}
        beforeUpload={(file) => {
          put.mutate(file);
          return Upload.LIST_IGNORE;
        }}
      >
        {put.isPending && <p role="status">Sending the paper …</p>}
        {!put.isPending && paper && (
          <p>
            Question paper: <strong>{paper.name}</strong>
            {paper.pages > 0 && `, ${count(paper.pages, "page")}`}
            {paper.state === "drawing" && <span className="soft"> · pages are being drawn</span>}
            {paper.state === "failed" && <span className="red"> · its pages cannot be drawn; students get it as a download</span>}
            <span className="soft"> · drop another one to replace it</span>
          </p>
        )}
        {!put.isPending && !paper && (
          <p>
            <strong>Drop the question paper here</strong>, or choose it: a PDF, or photographs of it. Its questions and points are
            read from it.
          </p>
        )}
      </Upload.Dragger>
      {put.error && <Trouble error={put.error} />}
      {paper?.state === "drawn" && (
        <button type="button" className="plain" onClick={() => setLooking(true)}>
          Look at it
        </button>
      )}
      {looking && <QuestionPaper assignmentId={id} onClose={() => setLooking(false)} />}
    </div>
  );
}

async function sendPaper(id: number, file: File): Promise<Work> {
  const address = `/api/assignments/${id}/paper?name=${encodeURIComponent(file.name)}`;
  const headers = { "X-CSRFToken": csrfToken(), "Content-Type": file.type || "application/octet-stream" };
  const answer = await fetch(address, { method: "PUT", body: file, headers }).catch(() => {
    throw new Problem(0, "unreachable", "The server cannot be reached. The paper is not sent; drop it again.");
  });
  const said = (await answer.json()) as unknown;
  if (!answer.ok) throw problemFrom(answer.status, said);
  return said as Work;
}
