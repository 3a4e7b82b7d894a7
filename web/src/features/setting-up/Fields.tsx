import { Checkbox, Form, Input, InputNumber, Radio, Switch } from "antd";
import type { ReactNode } from "react";
import { Moment } from "../../folio/Moment";
import { MARKED_UP, Prose } from "../../folio/Prose";
import { ALL_RULES, RULE_WORDS } from "../../folio/PaperRules";
import type { Schemas } from "../../shared/api/client";
import { AskOnce } from "../../shared/ui/AskOnce";
import { Trouble } from "../../shared/ui/Trouble";
import { type SettingUpFields, useFields } from "./useFields";

/** Title, rules of time and words of an assignment. Moments are times of day in the course's zone. */
export function Fields({ work }: { work: Schemas["SettingUpOut"] }) {
  const { fields, change, save, state, problem, field, asking, decide } = useFields(work);
  const timed = fields.writing_minutes !== null;
  const wrong = (name: keyof SettingUpFields) =>
    field === name ? { validateStatus: "error" as const, help: problem?.message } : {};
  const item = (name: keyof SettingUpFields, label: string, control: ReactNode, extra?: string) => (
    <Form.Item label={label} htmlFor={name} extra={extra} {...wrong(name)}>
      {control}
    </Form.Item>
  );
  const moment = (name: "opens" | "due" | "late_until", label: string, clear = false) =>
    item(
      name,
      label,
      <Moment id={name} value={fields[name]} clear={clear} onChange={(wall) => change({ [name]: wall })} />,
    );
  const minutes = (name: "writing_minutes" | "handover_minutes" | "placing_minutes" | "pledge_minutes", label: string, extra?: string) =>
    item(
      name,
      label,
      <InputNumber
        id={name}
        min={0}
        precision={0}
        suffix="min"
        style={{ width: 130 }}
        value={fields[name]}
        onChange={(value) => value !== null && change({ [name]: value })}
      />,
      extra,
    );
  const words = (name: "instructions" | "instructions_before", label: string, placeholder?: string) => (
    <>
      {item(
        name,
        label,
        <Input.TextArea
          id={name}
          rows={4}
          maxLength={20_000}
          placeholder={placeholder}
          value={fields[name]}
          onChange={(event) => change({ [name]: event.target.value })}
        />,
        "Markdown; formulas between dollars: $\\cos d = \\sin\\varphi_1$",
      )}
      {MARKED_UP.test(fields[name]) && (
        <section className="setting-up-prose" aria-label={`${label}: as students read it`}>
          <Prose text={fields[name]} />
        </section>
      )}
    </>
  );
  return (
    <Form layout="vertical" requiredMark={false} onBlur={() => void save()} onFinish={() => void save()}>
      {item("title", "Title", <Input id="title" maxLength={200} value={fields.title} onChange={(event) => change({ title: event.target.value })} />)}
      <Form.Item label="Kind" htmlFor="kind">
        <Radio.Group
          id="kind"
          value={timed}
          options={[
            { value: false, label: "due at a moment" },
            { value: true, label: "a timed sitting: its clock runs from when a student begins" },
          ]}
          onChange={(event) => change(event.target.value ? { writing_minutes: 90, late_until: null } : { writing_minutes: null })}
        />
      </Form.Item>
      <div className="setting-up-row">
        {moment("opens", "Opens")}
        {moment("due", "Due")}
        {!timed && moment("late_until", "Late work until", true)}
      </div>
      {timed && (
        <>
          <div className="setting-up-row">
            {minutes("writing_minutes", fields.handover_minutes === 0 ? "Writing and sending" : "Writing")}
            {fields.handover_minutes > 0 && minutes("handover_minutes", "then handover", "to photograph and send; 15 is common")}
          </div>
          <Form.Item htmlFor="one_clock" extra={fields.handover_minutes === 0 ? "Students see when to put the pen down, from how many pages are to come." : undefined}>
            <Switch id="one_clock" checked={fields.handover_minutes === 0} onChange={(one) => change({ handover_minutes: one ? 0 : 15 })} />{" "}
            <label htmlFor="one_clock">One clock for writing and sending together</label>
          </Form.Item>
          <Form.Item htmlFor="due_cuts_sitting">
            <Switch id="due_cuts_sitting" checked={fields.due_cuts_sitting} onChange={(on) => change({ due_cuts_sitting: on })} />{" "}
            <label htmlFor="due_cuts_sitting">The due moment ends a sitting that still runs</label>
          </Form.Item>
        </>
      )}
      <div className="setting-up-row">
        {minutes("placing_minutes", "Placing goes on after the close", "order and questions only")}
        {minutes("pledge_minutes", "Promised pages are taken for", "after the close, for weak lines")}
      </div>
      <Form.Item htmlFor="offers_rehearsal">
        <Switch id="offers_rehearsal" checked={fields.offers_rehearsal} onChange={(on) => change(on ? { offers_rehearsal: true } : { offers_rehearsal: false, asks_rehearsal: false })} />{" "}
        <label htmlFor="offers_rehearsal">Students may rehearse it: the same rules, counts for nothing</label>
      </Form.Item>
      {fields.offers_rehearsal && (
        <Form.Item htmlFor="asks_rehearsal" {...wrong("asks_rehearsal")}>
          <Switch id="asks_rehearsal" checked={fields.asks_rehearsal ?? false} onChange={(on) => change({ asks_rehearsal: on })} />{" "}
          <label htmlFor="asks_rehearsal">Everybody is asked to; the list of folios says who did</label>
        </Form.Item>
      )}
      <Form.Item htmlFor="whole_work">
        <Switch id="whole_work" checked={fields.whole_work} onChange={(on) => change({ whole_work: on })} />{" "}
        <label htmlFor="whole_work">Whole work: no questions, nothing is placed</label>
      </Form.Item>
      {!fields.whole_work && (
        <Form.Item htmlFor="proposes">
          <Switch id="proposes" checked={fields.proposes ?? true} onChange={(on) => change({ proposes: on })} />{" "}
          <label htmlFor="proposes">The labels on their pages are read, and places proposed; students confirm them</label>
        </Form.Item>
      )}
      <Form.Item label="What students are told of paper, pen and picture" htmlFor="paper_rules" extra="What a picture can show is checked in their test pictures.">
        <Checkbox.Group
          className="setting-up-rules"
          value={fields.paper_rules}
          options={ALL_RULES.map((rule) => ({ value: rule, label: RULE_WORDS[rule].short }))}
          onChange={(rules) => change({ paper_rules: rules })}
        />
      </Form.Item>
      <Form.Item label="Pages are" htmlFor="page_kinds" {...wrong("page_kinds")}>
        <Radio.Group
          id="page_kinds"
          value={fields.page_kinds}
          options={[
            { value: "any", label: "photographs, scans or PDF" },
            { value: "pictures", label: "pictures only" },
            { value: "pdf", label: "PDF only" },
          ]}
          onChange={(event) => change({ page_kinds: event.target.value as Schemas["LimitsOut"]["kinds"] })}
        />
      </Form.Item>
      {item(
        "honour",
        "Words of honour, confirmed by handing in",
        <Input.TextArea
          id="honour"
          rows={2}
          maxLength={2000}
          placeholder="None. For example: I wrote this alone, with nothing but the formula sheet."
          value={fields.honour}
          onChange={(event) => change({ honour: event.target.value })}
        />,
        "They stand beside the button, and the receipt says who confirmed what.",
      )}
      {words("instructions_before", "Instructions, seen before it is begun", "What to bring, what is allowed.")}
      {words("instructions", timed ? "Instructions, seen once begun" : "Instructions")}
      {asking && (
        <AskOnce title="Change the times for who has begun?" yes="Change it" no="Leave it as it was" onYes={() => decide(true)} onNo={() => decide(false)}>
          <p>{asking}</p>
        </AskOnce>
      )}
      {problem && !field && <Trouble error={problem} />}
      <p role="status" className={problem ? "red" : "soft"}>
        {problem && field ? "Not saved: look at the field in red." : { saved: "All of it is saved.", saving: "Saving …", typing: "Not saved yet …" }[state]}
      </p>
    </Form>
  );
}
