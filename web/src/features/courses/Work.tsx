import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Form, Input, Select } from "antd";
import { useNavigate } from "react-router";
import { Link } from "react-router";
import { answer, api, type Schemas } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { dayAndTime, serverNow } from "../../shared/time";
import { Button } from "../../shared/ui/Button";
import { Table } from "../../shared/ui/Table";
import { Trouble } from "../../shared/ui/Trouble";
import { count } from "../../shared/words";

type Course = Schemas["CourseOut"];
type One = Schemas["WorkOut"];

/** The assignments of a course, and a new one, from nothing or like another. */
export function Work({ course }: { course: Course }) {
  return (
    <>
      <Table<One>
        size="small"
        rowKey="id"
        pagination={false}
        dataSource={course.work}
        locale={{ emptyText: "No work yet. Give the first one a title below, then drop its question paper." }}
        columns={[
          { title: "Title", render: (_, one) => (course.teaches ? <Link to={`/setting-up/${one.id}`}>{one.title}</Link> : one.title) },
          { title: "State", render: (_, one) => stateWords(one, course.time_zone) },
          { title: "Opens", render: (_, one) => dayAndTime(one.opens, course.time_zone) },
          { title: "Due", render: (_, one) => dayAndTime(one.due, course.time_zone) },
          { title: "Questions", align: "right", dataIndex: "questions" },
          { title: "Begun", align: "right", dataIndex: "begun" },
          { title: "Handed in", align: "right", dataIndex: "handed_in" },
          {
            title: "",
            render: (_, one) => course.teaches && (
              <span className="course-doors">
                {one.given_out_at && <Link to={`/sittings/${one.id}`}>As it happens</Link>}
                {one.begun > 0 && <Link to={`/reading/${one.id}`}>Folios</Link>}
              </span>
            ),
          },
        ]}
      />
      {course.teaches ? <NewWork course={course} /> : <p className="soft">Its instructors set up the work; you administer the course.</p>}
    </>
  );
}

function stateWords(one: One, zone: string) {
  const now = serverNow();
  if (one.given_out_at === null) return <strong>draft, seen by nobody</strong>;
  if (Date.parse(one.given_out_at) > now) return `given out ${dayAndTime(one.given_out_at, zone)}`;
  if (Date.parse(one.due) < now) return "past its due moment";
  return Date.parse(one.opens) > now ? "given out, not open yet" : "open";
}

function NewWork({ course }: { course: Course }) {
  const go = useNavigate();
  const queries = useQueryClient();
  const begin = useMutation({
    mutationFn: (body: Schemas["NewWorkIn"]) =>
      answer(api.POST("/api/courses/{course_id}/assignments", { params: { path: { course_id: course.id } }, body })),
    onSuccess: async ({ id }) => {
      await queries.invalidateQueries({ queryKey: queryKeys.course(course.id) });
      void go(`/setting-up/${id}`);
    },
  });
  return (
    <Form
      className="course-new"
      layout="vertical"
      requiredMark={false}
      onFinish={(values: Schemas["NewWorkIn"]) => begin.mutate({ title: values.title, copy_of: values.copy_of ?? null })}
    >
      <Form.Item name="title" label="A new assignment" rules={[{ required: true, whitespace: true, message: "Give it a title." }]}>
        <Input placeholder="Midterm: the noon sight" maxLength={200} style={{ width: 320 }} />
      </Form.Item>
      {course.work.length > 0 && (
        <Form.Item name="copy_of" label="Like">
          <Select
            allowClear
            placeholder="nothing before"
            style={{ width: 260 }}
            options={course.work.map((one) => ({ value: one.id, label: one.title }))}
          />
        </Form.Item>
      )}
      <Form.Item label=" ">
        <Button type="submit" busy={begin.isPending}>
          Begin setting it up
        </Button>
      </Form.Item>
      {begin.error && <Trouble error={begin.error} />}
      <p className="soft course-new-words">
        It is a draft until you give it out. {course.students === 0 ? "Nobody is on the roster yet." : `${count(course.students, "student")} will see it then.`}
      </p>
    </Form>
  );
}
