import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Input } from "antd";
import { useDeferredValue, useState } from "react";
import { Link } from "react-router";
import { answer, api, type Schemas } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { Table } from "../../shared/ui/Table";
import { Trouble } from "../../shared/ui/Trouble";

const LEAST_LETTERS = 2;

/** People of the department's courses by name, number or mail address, with what they are in each. */
export function FindPeople({ departmentId }: { departmentId: number }) {
  const [typed, setTyped] = useState("");
  const words = useDeferredValue(typed.trim());
  const enough = words.replaceAll(" ", "").length >= LEAST_LETTERS;
  const found = useQuery({
    queryKey: queryKeys.departmentPeople(departmentId, words),
    enabled: enough,
    placeholderData: keepPreviousData,
    queryFn: () =>
      answer(api.GET("/api/departments/{department_id}/people", { params: { path: { department_id: departmentId }, query: { words } } })),
  });
  return (
    <>
      <Input
        className="department-find"
        aria-label="Name, number or mail address"
        placeholder="Name, number or mail address"
        allowClear
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
      />
      {found.isError && <Trouble error={found.error} onRetry={() => void found.refetch()} />}
      {enough && (
        <Table<Schemas["DepartmentPerson"]>
          size="small"
          rowKey="id"
          pagination={false}
          loading={found.isPending}
          dataSource={found.data?.people ?? []}
          locale={{ emptyText: "Nobody of this department’s courses is called so." }}
          columns={[
            { title: "Name", dataIndex: "name" },
            { title: "Number", dataIndex: "number" },
            { title: "Mail address", dataIndex: "email" },
            {
              title: "In",
              render: (_, one) =>
                one.roles.map(({ course_id: id, course, role }, at) => (
                  <span key={`${id} ${role}`}>
                    {at > 0 && ", "}
                    <Link to={`/courses/${id}?tab=people`}>{course}</Link> <span className="soft">{role}</span>
                  </span>
                )),
            },
          ]}
        />
      )}
      {enough && (found.data?.more ?? 0) > 0 && <p className="soft">And {found.data?.more} more. Type more of the name.</p>}
    </>
  );
}
