import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Upload } from "antd";
import { useState } from "react";
import { FilesOfWork } from "../../folio/FilesOfWork";
import { QuestionPaper } from "../../folio/QuestionPaper";
import type { Schemas } from "../../shared/api/client";
import { putFile } from "../../shared/api/putFile";
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
    mutationFn: (file: File) => send(id, file),
    onSuccess: (now) => {
      queries.setQueryData(queryKeys.settingUp(id), now);
      void queries.invalidateQueries({ queryKey: queryKeys.questionPaper(id) });
      void queries.invalidateQueries({ queryKey: queryKeys.proposal(id) });
      void queries.resetQueries({ queryKey: queryKeys.printedSheets(id) }); // spaces of the paper before say nothing of this one
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

/** A formula sheet, a table: given out with the paper. */
export function FilesBeside({ work }: { work: Work }) {
  const queries = useQueryClient();
  const id = work.assignment.id;
  const onChanged = () => void queries.invalidateQueries({ queryKey: queryKeys.settingUp(id) });
  return <FilesOfWork assignmentId={id} files={work.files} to="files" words="Add a file beside it, a formula sheet say" onChanged={onChanged} />;
}

async function send(id: number, file: File): Promise<Work> {
  return (await putFile(`/api/assignments/${id}/paper`, file)) as Work;
}
