import { useQuery } from "@tanstack/react-query";
import { Tabs } from "antd";
import { Link, useParams, useSearchParams } from "react-router";
import { NewCourse } from "../../folio/NewCourse";
import { answer, api, type Schemas } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { Masthead } from "../../shared/ui/Masthead";
import { Table } from "../../shared/ui/Table";
import { Themed } from "../../shared/ui/Themed";
import { Trouble } from "../../shared/ui/Trouble";
import { count, list } from "../../shared/words";
import { Administrators } from "./Administrators";
import "./Department.css";
import { FindPeople } from "./FindPeople";

/** A department as its administrators see it: its courses, the people in them, and each other. */
export default function Department() {
  const departmentId = Number(useParams().departmentId);
  const [search, setSearch] = useSearchParams();
  const department = useQuery({
    queryKey: queryKeys.department(departmentId),
    queryFn: () => answer(api.GET("/api/departments/{department_id}", { params: { path: { department_id: departmentId } } })),
  });
  const data = department.data;
  return (
    <div className="screen">
      <Masthead help="department" title={data?.title ?? ""} course={data?.code} />
      <main>
        {department.isError && <Trouble error={department.error} onRetry={() => void department.refetch()} />}
        {data && (
          <>
            <h1>{data.title}</h1>
            <p className="soft">
              {data.code} · {count(data.courses.length, "course")} · administered by {list(data.administrators.map((one) => one.name))}
            </p>
            <Themed>
              <Tabs
                className="department-tabs"
                tabBarGutter={20}
                activeKey={search.get("tab") ?? "courses"}
                onChange={(tab) => setSearch({ tab }, { replace: true })}
                items={[
                  { key: "courses", label: "Courses", children: <Courses department={data} /> },
                  { key: "people", label: "People", children: <FindPeople departmentId={data.id} /> },
                  { key: "administrators", label: `Administrators ${data.administrators.length}`, children: <Administrators department={data} /> },
                ]}
              />
            </Themed>
          </>
        )}
      </main>
    </div>
  );
}

function Courses({ department }: { department: Schemas["DepartmentOut"] }) {
  return (
    <>
      <p className="department-tools">
        <NewCourse departmentId={department.id} />
        <span className="soft">Its roster says who teaches it and who studies it; its work is its instructors’.</span>
      </p>
      <Table<Schemas["DepartmentCourse"]>
        size="small"
        rowKey="id"
        pagination={false}
        dataSource={department.courses}
        locale={{ emptyText: "No course yet." }}
        columns={[
          { title: "Course", render: (_, one) => <Link to={`/courses/${one.id}?tab=people`}>{one.code}</Link> },
          { title: "Title", dataIndex: "title" },
          { title: "Term", dataIndex: "term", responsive: ["md"] },
          {
            title: "Taught by",
            render: (_, one) => (one.instructors.length > 0 ? list(one.instructors) : <span className="red">nobody yet</span>),
          },
          { title: "Markers", dataIndex: "markers", align: "right", responsive: ["md"] },
          { title: "Students", dataIndex: "students", align: "right" },
        ]}
      />
    </>
  );
}
