import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Form, Input } from "antd";
import { useState } from "react";
import { answer, api, type Schemas } from "../../shared/api/client";
import { useSignedIn } from "../../shared/me";
import { queryKeys } from "../../shared/queryKeys";
import { AskOnce } from "../../shared/ui/AskOnce";
import { Button } from "../../shared/ui/Button";
import { Table } from "../../shared/ui/Table";
import { Trouble } from "../../shared/ui/Trouble";

type Department = Schemas["DepartmentOut"];
type Administrator = Schemas["AdministratorOut"];

/** Who administers the department: another one is named by mail address; the last one stays. */
export function Administrators({ department }: { department: Department }) {
  const me = useSignedIn();
  const queries = useQueryClient();
  const [email, setEmail] = useState("");
  const [leaving, setLeaving] = useState<Administrator | null>(null);
  const path = { department_id: department.id };
  const onSuccess = (now: Department) => {
    queries.setQueryData(queryKeys.department(department.id), now);
    void queries.invalidateQueries({ queryKey: queryKeys.courses });
  };
  const add = useMutation({
    mutationFn: () => answer(api.POST("/api/departments/{department_id}/administrators", { params: { path }, body: { email } })),
    onSuccess: (now) => {
      onSuccess(now);
      setEmail("");
    },
  });
  const remove = useMutation({
    mutationFn: (one: Administrator) =>
      answer(api.DELETE("/api/departments/{department_id}/administrators/{person_id}", { params: { path: { ...path, person_id: one.id } } })),
    onSuccess,
  });
  return (
    <>
      <Table<Administrator>
        size="small"
        rowKey="id"
        pagination={false}
        dataSource={department.administrators}
        columns={[
          { title: "Name", dataIndex: "name" },
          { title: "Mail address", dataIndex: "email" },
          {
            title: "",
            align: "right",
            render: (_, one) => (
              <button type="button" className="plain" onClick={() => setLeaving(one)}>
                Take away<span className="unseen"> {one.name}</span>
              </button>
            ),
          },
        ]}
      />
      {remove.error && <Trouble error={remove.error} />}
      <Form className="department-add" layout="vertical" onFinish={() => add.mutate()}>
        <Form.Item label="Another administrator, by mail address" htmlFor="administrator" {...(add.error && { validateStatus: "error", help: add.error.message })}>
          <Input id="administrator" type="email" maxLength={254} value={email} onChange={(event) => setEmail(event.target.value)} />
        </Form.Item>
        <Button type="submit" busy={add.isPending} disabled={email.trim() === ""}>
          Name them
        </Button>
      </Form>
      {leaving && (
        <AskOnce
          title={`${leaving.name}: no administrator any more?`}
          no="Keep"
          yes="Take away"
          onNo={() => setLeaving(null)}
          onYes={() => {
            remove.mutate(leaving);
            setLeaving(null);
          }}
        >
          {leaving.email === me.email
            ? "You would not see this department any more; another administrator can name you again."
            : "What they are in single courses stays. They can be named again at any time."}
        </AskOnce>
      )}
    </>
  );
}
