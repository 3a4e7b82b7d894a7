import { useMutation } from "@tanstack/react-query";
import { Upload } from "antd";
import { answer, api, type Schemas } from "../../shared/api/client";
import { putFile } from "../../shared/api/putFile";
import { Button } from "../../shared/ui/Button";
import { Themed } from "../../shared/ui/Themed";
import { Trouble } from "../../shared/ui/Trouble";
import { size } from "../../shared/words";

interface Props {
  data: Schemas["GivingBackOut"];
  onChanged: () => void;
}

/** The model answer and other files that come with marked work: seen by nobody before their own is given back. */
export function MarksFiles({ data, onChanged }: Props) {
  const id = data.assignment.id;
  const add = useMutation({ mutationFn: (file: File) => putFile(`/api/assignments/${id}/marks-files`, file), onSuccess: onChanged });
  const remove = useMutation({
    mutationFn: (file: number) => answer(api.DELETE("/api/assignments/{assignment_id}/files/{file_id}", { params: { path: { assignment_id: id, file_id: file } } })),
    onSuccess: onChanged,
  });
  const error = add.error ?? remove.error;
  return (
    <section className="marks-files" aria-label="Files that come with the marks">
      {data.files.map((one) => (
        <p key={one.id}>
          <a href={`/api/assignments/${id}/files/${one.id}`} download>
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
            {add.isPending ? "Sending …" : "Add the model answer, or another file"}
          </Button>
        </Upload>
      </Themed>
      {error && <Trouble error={error} />}
    </section>
  );
}
