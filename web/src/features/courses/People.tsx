import { useMutation, useQuery } from "@tanstack/react-query";
import { Checkbox, Form, Input, Select } from "antd";
import { useState } from "react";
import { answer, api, type Schemas } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { AskOnce } from "../../shared/ui/AskOnce";
import { Button, FileButton } from "../../shared/ui/Button";
import { Dialog } from "../../shared/ui/Dialog";
import { Table } from "../../shared/ui/Table";
import { Themed } from "../../shared/ui/Themed";
import { Trouble } from "../../shared/ui/Trouble";
import { count } from "../../shared/words";
import { RosterImport } from "./RosterImport";
import { useRosterChanged } from "./useRosterChanged";

type Line = Schemas["PersonOut"];
type Course = Schemas["CourseOut"];
const PAGE_ROWS = 50;
const ROLES = ["student", "marker", "instructor"].map((role) => ({ value: role, label: role }));
const scripts = new Intl.Collator(undefined, { numeric: true }); // names of all scripts, as the reader's language sorts them

/** The roster: found by name, number or mail; extra time, sections; from a file, by hand, and back to a file. */
export function People({ course }: { course: Course }) {
  const path = { course_id: course.id };
  const people = useQuery({
    queryKey: queryKeys.people(course.id),
    queryFn: () => answer(api.GET("/api/courses/{course_id}/people", { params: { path } })),
  });
  const [wanted, setWanted] = useState("");
  const [sheet, setSheet] = useState<"import" | "add" | Line | null>(null);
  const found = (people.data ?? []).filter((one) => haystack(one).includes(plain(wanted)));
  return (
    <>
      <p className="people-tools">
        <Input.Search
          aria-label="Find people"
          placeholder="name, number, mail, section"
          allowClear
          style={{ width: 270 }}
          value={wanted}
          onChange={(event) => setWanted(event.target.value)}
        />
        <Button first={people.data?.length === 1} onClick={() => setSheet("import")}>
          Take in a roster
        </Button>
        <Button onClick={() => setSheet("add")}>Add one person</Button>
        <FileButton href={`/api/courses/${course.id}/roster.csv`}>Roster as CSV</FileButton>
        <FileButton href={`/api/courses/${course.id}/roster.zip`}>as OneRoster</FileButton>
      </p>
      {people.isError && <Trouble error={people.error} onRetry={() => void people.refetch()} />}
      <Table<Line>
        size="small"
        rowKey="id"
        loading={people.isPending}
        pagination={found.length > PAGE_ROWS ? { pageSize: PAGE_ROWS, showSizeChanger: false, placement: ["bottomStart"] } : false}
        dataSource={found}
        locale={{ emptyText: wanted ? "Nobody is called so." : "Nobody yet." }}
        columns={[
          {
            title: "Name",
            sorter: (a, b) => scripts.compare(`${a.family_name} ${a.given_name}`, `${b.family_name} ${b.given_name}`),
            render: (_, one) => (
              <button type="button" className="plain" onClick={() => setSheet(one)}>
                {one.family_name ? `${one.family_name}, ${one.given_name}` : one.given_name || one.email}
              </button>
            ),
          },
          { title: "Number", dataIndex: "number", sorter: (a, b) => scripts.compare(a.number, b.number) },
          { title: "Mail address", dataIndex: "email" },
          { title: "Section", dataIndex: "section", sorter: (a, b) => scripts.compare(a.section, b.section) },
          { title: "Role", dataIndex: "role", sorter: (a, b) => a.role.localeCompare(b.role) },
          { title: "Extra time", dataIndex: "extra_time", sorter: (a, b) => scripts.compare(b.extra_time, a.extra_time) },
          { title: "", render: (_, one) => !one.can_sign_in && <span className="soft">no password yet</span> },
        ]}
      />
      {sheet === "import" && <RosterImport course={course} onClose={() => setSheet(null)} />}
      {sheet === "add" && <AddPerson course={course} onClose={() => setSheet(null)} />}
      {sheet !== null && typeof sheet === "object" && <OnePerson course={course} line={sheet} onClose={() => setSheet(null)} />}
    </>
  );
}

function plain(text: string): string {
  return text.trim().toLowerCase().normalize("NFD").replace(/\p{M}/gu, "");
}
function haystack(one: Line): string {
  return plain(`${one.given_name} ${one.family_name} ${one.given_name} ${one.number} ${one.email} ${one.section}`);
}

function AddPerson({ course, onClose }: { course: Course; onClose: () => void }) {
  const changed = useRosterChanged(course.id);
  const [form] = Form.useForm<Schemas["PersonIn"]>();
  const add = useMutation({
    mutationFn: (body: Schemas["PersonIn"]) =>
      answer(api.POST("/api/courses/{course_id}/people", { params: { path: { course_id: course.id } }, body })),
    onSuccess: async () => {
      await changed();
      form.resetFields();
    },
  });
  return (
    <Dialog title="Add one person" onClose={onClose}>
      <Themed>
        <Form<Schemas["PersonIn"]>
          form={form}
          layout="vertical"
          requiredMark={false}
          initialValues={{ role: "student", section: "", number: "", given_name: "", family_name: "", invite: true }}
          onFinish={(values) => add.mutate(values)}
        >
          <div className="course-form-row">
            <Form.Item name="given_name" label="Given name">
              <Input maxLength={150} />
            </Form.Item>
            <Form.Item name="family_name" label="Family name" rules={[{ required: true, whitespace: true, message: "The name is missing." }]}>
              <Input maxLength={150} />
            </Form.Item>
          </div>
          <Form.Item name="email" label="Mail address" rules={[{ required: true, type: "email", message: "Like name@college.example" }]}>
            <Input maxLength={254} />
          </Form.Item>
          <div className="course-form-row">
            <Form.Item name="number" label="Number">
              <Input maxLength={32} />
            </Form.Item>
            <Form.Item name="section" label="Section">
              <Input maxLength={40} />
            </Form.Item>
            <Form.Item name="role" label="Role">
              <Select options={ROLES} />
            </Form.Item>
          </div>
          <Form.Item name="invite" valuePropName="checked">
            <Checkbox>Send them a link to set their password, if they have none</Checkbox>
          </Form.Item>
          {add.error && <Trouble error={add.error} />}
          {add.isSuccess && <p role="status">{add.data.added ? "Added." : "They are on the roster already; nobody is doubled."}</p>}
          <Button type="submit" first busy={add.isPending}>
            Add to {course.code}
          </Button>
        </Form>
      </Themed>
    </Dialog>
  );
}

/** Section and extra time of one, a new link, and off the roster. */
function OnePerson({ course, line, onClose }: { course: Course; line: Line; onClose: () => void }) {
  const changed = useRosterChanged(course.id);
  const [asking, setAsking] = useState(false);
  const params = { path: { course_id: course.id, line_id: line.id } };
  const done = async () => {
    await changed();
    onClose();
  };
  const save = useMutation({
    mutationFn: (body: Schemas["LineIn"]) => answer(api.PUT("/api/courses/{course_id}/people/{line_id}", { params, body })),
    onSuccess: done,
  });
  const remove = useMutation({
    mutationFn: () => answer(api.DELETE("/api/courses/{course_id}/people/{line_id}", { params })),
    onSuccess: done,
  });
  const invite = useMutation({ mutationFn: () => answer(api.POST("/api/courses/{course_id}/people/{line_id}/invite", { params })) });
  const error = save.error ?? remove.error ?? invite.error;
  const name = `${line.given_name} ${line.family_name}`.trim() || line.email;
  return (
    <Dialog title={name} onClose={onClose}>
      <p className="soft">
        {[line.number && `no. ${line.number}`, line.email, line.role, line.begun > 0 && `${count(line.begun, "folio")} begun`].filter(Boolean).join(" · ")}
      </p>
      <Themed>
        <Form<Schemas["LineIn"]> layout="vertical" requiredMark={false} initialValues={line} onFinish={(values) => save.mutate(values)}>
          <Form.Item name="section" label="Section">
            <Input maxLength={40} />
          </Form.Item>
          {line.role === "student" && (
            <>
              <Form.Item
                name="extra_time"
                label="Extra time on writing"
                extra="×1.25, 25 %, 15 min, or ×1.25 + 10 min. Work that is begun already gains by it at once, and never loses."
              >
                <Input maxLength={60} placeholder="none" />
              </Form.Item>
              <Form.Item name="extra_on_handover" valuePropName="checked">
                <Checkbox>The factor lengthens the handover too</Checkbox>
              </Form.Item>
              <Form.Item name="extra_on_due" valuePropName="checked">
                <Checkbox>The due moment moves by as much as the sitting grew</Checkbox>
              </Form.Item>
              <Form.Item name="extra_reason" label="Why, for staff only">
                <Input maxLength={200} />
              </Form.Item>
            </>
          )}
          {error && <Trouble error={error} />}
          {invite.isSuccess && <p role="status">A link went to {line.email}.</p>}
          <p className="roster-foot">
            <Button type="submit" first busy={save.isPending}>
              Save it
            </Button>
            {!line.can_sign_in && (
              <Button busy={invite.isPending} onClick={() => invite.mutate()}>
                Send a link to set a password
              </Button>
            )}
            <button type="button" className="plain" onClick={() => setAsking(true)}>
              Off the roster
            </button>
          </p>
        </Form>
      </Themed>
      {asking && (
        <AskOnce
          title={`Take ${name} off the roster?`}
          no="Keep"
          yes="Take off"
          onNo={() => setAsking(false)}
          onYes={() => {
            setAsking(false);
            remove.mutate();
          }}
        >
          {line.begun > 0
            ? `${count(line.begun, "folio")} that they began stay theirs, and in the lists of folios.`
            : "Nothing was begun here. They can be added again at any time."}
        </AskOnce>
      )}
    </Dialog>
  );
}
