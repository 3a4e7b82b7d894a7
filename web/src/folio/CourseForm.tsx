import type { UseMutationResult } from "@tanstack/react-query";
import { Checkbox, Form, Input, Radio, Select } from "antd";
import { useEffect } from "react";
import type { Schemas } from "../shared/api/client";
import { Problem } from "../shared/api/problem";
import { Button } from "../shared/ui/Button";
import { Themed } from "../shared/ui/Themed";
import { Trouble } from "../shared/ui/Trouble";
import "./CourseForm.css";

export type Facts = Omit<Schemas["CourseIn"], "version">;
interface Props {
  facts: Partial<Facts>;
  /** On the button. */
  words: string;
  saving: UseMutationResult<unknown, Error, Facts>;
}

/** What an instructor writes of a course, new or known. What is wrong is said at its field. */
export function CourseForm({ facts, words, saving }: Props) {
  const [form] = Form.useForm<Facts>();
  const { error } = saving;
  const field = error instanceof Problem ? /^field:(\w+)$/.exec(error.code)?.[1] : undefined;
  useEffect(() => {
    if (field && error) form.setFields([{ name: field as keyof Facts, errors: [error.message] }]);
  }, [error, field, form]);
  return (
    <Themed>
      <Form<Facts>
        form={form}
        className="course-form"
        layout="vertical"
        requiredMark={false}
        initialValues={{ time_zone: Intl.DateTimeFormat().resolvedOptions().timeZone, paper_size: "A4", proposes: true, ...facts }}
        onFinish={(values) => saving.mutate({ ...blank, ...values })}
      >
        <div className="course-form-row">
          <Form.Item name="code" label="Code" rules={[{ required: true, whitespace: true, message: "As it is printed: NAV 231." }]}>
            <Input placeholder="NAV 231" maxLength={32} />
          </Form.Item>
          <Form.Item name="title" label="Title" rules={[{ required: true, whitespace: true, message: "Give it a title." }]}>
            <Input placeholder="Celestial Navigation" maxLength={200} />
          </Form.Item>
          <Form.Item name="term" label="Term">
            <Input placeholder="Fall 2026" maxLength={40} />
          </Form.Item>
        </div>
        <div className="course-form-row">
          <Form.Item name="time_zone" label="Time zone: all moments are shown in it" rules={[{ required: true }]}>
            <Select showSearch options={ZONES.map((zone) => ({ value: zone, label: zone.replaceAll("_", " ") }))} />
          </Form.Item>
          <Form.Item name="place" label="Place, in words">
            <Input placeholder="Kestrel Point" maxLength={80} />
          </Form.Item>
          <Form.Item name="paper_size" label="Paper">
            <Radio.Group optionType="button" options={[{ value: "A4", label: "A4" }, { value: "LETTER", label: "Letter" }]} />
          </Form.Item>
        </div>
        <div className="course-form-row">
          <Form.Item name="contact_name" label="Whom students ask for help">
            <Input maxLength={120} />
          </Form.Item>
          <Form.Item name="contact_email" label="Mail address" rules={[{ type: "email", message: "Like name@college.example" }]}>
            <Input maxLength={254} />
          </Form.Item>
          <Form.Item name="contact_note" label="When and where">
            <Input placeholder="in the hall during examinations" maxLength={200} />
          </Form.Item>
        </div>
        <Form.Item name="proposes" valuePropName="checked">
          <Checkbox>The labels on students’ pages are read, and places proposed to them</Checkbox>
        </Form.Item>
        {error && !field && <Trouble error={error} />}
        <Button type="submit" first busy={saving.isPending}>
          {words}
        </Button>{" "}
        {saving.isSuccess && <span role="status">Saved.</span>}
      </Form>
    </Themed>
  );
}

const blank: Omit<Facts, "code" | "title" | "time_zone"> = {
  term: "", place: "", paper_size: "A4", proposes: true, contact_name: "", contact_email: "", contact_note: "",
};
const ZONES = [...new Set([...Intl.supportedValuesOf("timeZone"), "UTC"])];
