import { useMutation } from "@tanstack/react-query";
import { Upload } from "antd";
import { answer, api, type Schemas } from "../shared/api/client";
import { putFile } from "../shared/api/putFile";
import { Button } from "../shared/ui/Button";
import { Themed } from "../shared/ui/Themed";
import { Trouble } from "../shared/ui/Trouble";
import { size } from "../shared/words";

interface Props {
  assignmentId: number;
  files: readonly Schemas["FileBesideOut"][];
  /** Where a new one is sent to: with the paper, or with the marks. */
  to: "files" | "marks-files";
  /** On the button that adds one. */
  words: string;
  onChanged: () => void;
}

/** Files that go with an assignment's paper or with its marks: added, taken away. */
export function FilesOfWork({ assignmentId, files, to, words, onChanged }: Props) {
  const add = useMutation({ mutationFn: (file: File) => putFile(`/api/assignments/${assignmentId}/${to}`, file), onSuccess: onChanged });
  const remove = useMutation({
    mutationFn: (file: number) =>
      answer(api.DELETE("/api/assignments/{assignment_id}/files/{file_id}", { params: { path: { assignment_id: assignmentId, file_id: file } } })),
    onSuccess: onChanged,
  });
  const error = add.error ?? remove.error;
  return (
    <div className="files-beside">
      {files.map((one) => (
        <p key={one.id}>
          <a href={`/api/assignments/${assignmentId}/files/${one.id}`} download>
            {one.name}
          </a>{" "}
          <span className="soft">{size(one.size)}</span>{" "}
          <button type="button" className="plain" disabled={remove.isPending} onClick={() => remove.mutate(one.id)}>
            Take away<span className="unseen"> {one.name}</span>
          </button>
        </p>
      ))}
      <Themed>
        <Upload
          accept="application/pdf,image/*"
          showUploadList={false}
          disabled={add.isPending}
          beforeUpload={(file) => {
            add.mutate(file);
            return Upload.LIST_IGNORE;
          }}
        >
          <Button small busy={add.isPending}>
            {add.isPending ? "Sending …" : words}
          </Button>
        </Upload>
      </Themed>
      {error && <Trouble error={error} />}
    </div>
  );
}
