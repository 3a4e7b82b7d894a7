import { useMutation } from "@tanstack/react-query";
import { Checkbox, Form, InputNumber, Select } from "antd";
import { useState } from "react";
import { answer, api, type Schemas } from "../../shared/api/client";
import { Button } from "../../shared/ui/Button";
import { Dialog } from "../../shared/ui/Dialog";
import { Trouble } from "../../shared/ui/Trouble";

interface Props {
  assignmentId: number;
  scheme: Schemas["SchemeOut"];
  onClose: () => void;
  onSaved: (scheme: Schemas["SchemeOut"]) => void;
}

const HOUR = 60;
const DAY = 24 * HOUR;

/** How an assignment is marked: steps, names, second markers, what late work loses. */
export function SchemeDialog({ assignmentId, scheme, onClose, onSaved }: Props) {
  const [fields, setFields] = useState(scheme);
  const change = (wanted: Partial<Schemas["SchemeOut"]>) => setFields((now) => ({ ...now, ...wanted }));
  const { steps, ...body } = fields;
  const save = useMutation({
    mutationFn: () => answer(api.PUT("/api/assignments/{assignment_id}/marking/scheme", { params: { path: { assignment_id: assignmentId } }, body })),
    onSuccess: onSaved,
  });
  const late = Number(fields.late_percent) > 0;
  return (
    <Dialog title="How it is marked" onClose={onClose}>
      <Form layout="vertical" requiredMark={false} onFinish={() => save.mutate()}>
        <Form.Item label="Points go in steps of" htmlFor="scheme-step">
          <Select id="scheme-step" style={{ width: 110 }} value={fields.step} options={steps.map((value) => ({ value, label: value }))} onChange={(step) => change({ step })} />
        </Form.Item>
        <Form.Item>
          <Checkbox checked={fields.hides_names} onChange={({ target }) => change({ hides_names: target.checked })}>
            Markers see neither names nor numbers until it is given back
          </Checkbox>
        </Form.Item>
        <Form.Item>
          <Checkbox checked={fields.marks_twice} onChange={({ target }) => change({ marks_twice: target.checked })}>
            Every answer is marked twice; neither marker sees the other’s points before
          </Checkbox>
        </Form.Item>
        {!fields.marks_twice && (
          <Form.Item label="Of the answers, a second marker looks at" htmlFor="scheme-sample" extra="Drawn by lot, the same ones for everybody. 0: none.">
            <InputNumber id="scheme-sample" min={0} max={100} precision={0} suffix="%" style={{ width: 110 }} value={fields.sample_percent} onChange={(value) => change({ sample_percent: value ?? 0 })} />
          </Form.Item>
        )}
        <Form.Item label="Of the questions, the lowest do not count" htmlFor="scheme-drop" extra="By their share of what they are worth. 0: all count.">
          <InputNumber id="scheme-drop" min={0} max={400} precision={0} style={{ width: 110 }} value={fields.drop_lowest} onChange={(value) => change({ drop_lowest: value ?? 0 })} />
        </Form.Item>
        <Form.Item label="Late work loses, of the points it reached" htmlFor="scheme-late">
          <InputNumber id="scheme-late" min={0} max={100} step={5} suffix="%" style={{ width: 110 }} value={Number(fields.late_percent)} onChange={(value) => change({ late_percent: String(value ?? 0) })} />{" "}
          {late && (
            <>
              for each{" "}
              <Select
                aria-label="For each"
                style={{ width: 110 }}
                value={fields.late_every_minutes}
                options={[{ value: HOUR, label: "hour" }, { value: DAY, label: "day" }, ...([HOUR, DAY].includes(fields.late_every_minutes) ? [] : [{ value: fields.late_every_minutes, label: `${fields.late_every_minutes} min` }])]}
                onChange={(late_every_minutes) => change({ late_every_minutes })}
              />{" "}
              begun
            </>
          )}
        </Form.Item>
        {late && (
          <div className="scheme-row">
            <Form.Item label="after a grace of" htmlFor="scheme-grace">
              <InputNumber id="scheme-grace" min={0} max={60 * DAY} precision={0} suffix="min" style={{ width: 130 }} value={fields.late_grace_minutes} onChange={(value) => change({ late_grace_minutes: value ?? 0 })} />
            </Form.Item>
            <Form.Item label="at most" htmlFor="scheme-most">
              <InputNumber id="scheme-most" min={0} max={100} suffix="%" style={{ width: 110 }} value={Number(fields.late_most_percent)} onChange={(value) => change({ late_most_percent: String(value ?? 0) })} />
            </Form.Item>
          </div>
        )}
        {save.error && <Trouble error={save.error} />}
        <Button first type="submit" busy={save.isPending}>
          Keep it so
        </Button>
      </Form>
    </Dialog>
  );
}
