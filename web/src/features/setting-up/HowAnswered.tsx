import { Checkbox, Input, InputNumber, Radio } from "antd";
import { useId, useState } from "react";
import { choiceName, isOnPages } from "../../folio/answers/content";
import { Prose } from "../../folio/Prose";
import { Button } from "../../shared/ui/Button";
import { Dialog } from "../../shared/ui/Dialog";
import type { Answering } from "./mapEntries";
import "./HowAnswered.css";

type Kind = Answering["kinds"][number];

const KINDS: readonly { value: Kind; label: string }[] = [
  { value: "pages", label: "On pages: written on paper and photographed" },
  { value: "chosen", label: "Chosen from a list" },
  { value: "short", label: "Short: a number, a word, an expression" },
  { value: "written", label: "Written here: text with maths" },
  { value: "pictures", label: "Pictures of the working, at this question" },
];
const NAMES: Record<Kind, string> = { pages: "pages", chosen: "chosen", short: "short", written: "written here", pictures: "pictures" };

export function answeringWords({ kinds }: Answering): string {
  return kinds.map((kind) => NAMES[kind]).join(" + ");
}

interface Props {
  label: string;
  answering: Answering;
  onDone: (answering: Answering) => void;
  onClose: () => void;
}

/** How one question is answered: all that is ticked is asked for. Nothing is saved before the map is. */
export function HowAnswered({ label, answering, onDone, onClose }: Props) {
  const [wanted, setWanted] = useState(answering);
  const put = (change: Partial<Answering>) => setWanted((now) => ({ ...now, ...change }));
  const has = (kind: Kind) => wanted.kinds.includes(kind);
  const trouble = troubleOf(wanted);
  return (
    <Dialog title={`How ${label || "this question"} is answered`} onClose={onClose} width={680}>
      <div className="how-answered">
        <Checkbox.Group
          className="how-kinds"
          options={[...KINDS]}
          value={wanted.kinds}
          onChange={(kinds) => put({ kinds: KINDS.map((one) => one.value).filter((kind) => kinds.includes(kind)) })}
        />
        <Field label="What is asked" hint="shown beside the answer; Markdown, maths between dollars">
          {(id) => <Input.TextArea id={id} rows={3} maxLength={4000} value={wanted.text} onChange={(event) => put({ text: event.target.value })} />}
        </Field>
        {wanted.text.trim() !== "" && (
          <div className="how-shown">
            <Prose text={wanted.text} />
          </div>
        )}
        {has("chosen") && <Choices {...{ wanted, put }} />}
        {has("short") && <Short {...{ wanted, put }} />}
        {wanted.kinds.some((kind) => !isOnPages(kind)) && (
          <Checkbox checked={wanted.before_pages} onChange={(event) => put({ before_pages: event.target.checked })}>
            In the bound PDF it stands before the pages
          </Checkbox>
        )}
        {trouble && <p className="red">{trouble}</p>}
        <p className="how-foot">
          <Button first disabled={trouble !== ""} onClick={() => onDone(wanted)}>
            Done
          </Button>
          <button type="button" className="plain" onClick={onClose}>
            Leave it as it was
          </button>
        </p>
      </div>
    </Dialog>
  );
}

interface PartProps {
  wanted: Answering;
  put: (change: Partial<Answering>) => void;
}

function Choices({ wanted, put }: PartProps) {
  const { choices, right, many, mixed } = wanted;
  const putRight = (id: string, is: boolean) => {
    const others = many ? right.filter((one) => one !== id) : [];
    put({ right: is ? [...others, id] : right.filter((one) => one !== id) });
  };
  return (
    <fieldset className="how-part">
      <legend>The choices</legend>
      {choices.map((one, at) => (
        <div key={one.id} className="how-choice">
          <b>{choiceName(at)}</b>
          <Input
            aria-label={`Choice ${choiceName(at)}`}
            maxLength={400}
            value={one.text}
            onChange={(event) => put({ choices: choices.map((other) => (other.id === one.id ? { ...other, text: event.target.value } : other)) })}
          />
          <Checkbox checked={right.includes(one.id)} onChange={(event) => putRight(one.id, event.target.checked)}>
            right
          </Checkbox>
          <button
            type="button"
            className="plain"
            onClick={() => put({ choices: choices.filter((other) => other.id !== one.id), right: right.filter((id) => id !== one.id) })}
          >
            Off<span className="unseen"> the list: choice {choiceName(at)}</span>
          </button>
        </div>
      ))}
      <p>
        <Button small disabled={choices.length >= 12} onClick={() => put({ choices: [...choices, { id: crypto.randomUUID(), text: "" }] })}>
          Add a choice
        </Button>
      </p>
      <Checkbox checked={many} onChange={(event) => put({ many: event.target.checked, right: event.target.checked ? right : right.slice(0, 1) })}>
        Several may be chosen
      </Checkbox>
      <Checkbox checked={mixed} onChange={(event) => put({ mixed: event.target.checked })}>
        Each student sees them in another order
      </Checkbox>
      <p className="soft">Where right ones are ticked, the answer is marked by itself; a marker has the last word.</p>
    </fieldset>
  );
}

function Short({ wanted, put }: PartProps) {
  const { short } = wanted;
  const putShort = (change: Partial<Answering["short"]>) => put({ short: { ...short, ...change } });
  return (
    <fieldset className="how-part">
      <legend>The short answer</legend>
      <Radio.Group
        aria-label="What it is"
        value={short.kind}
        options={[
          { value: "number", label: "a number" },
          { value: "word", label: "a word" },
          { value: "maths", label: "an expression" },
        ]}
        onChange={(event) => putShort({ kind: event.target.value as Answering["short"]["kind"] })}
      />
      <div className="how-row">
        <Field label={short.kind === "word" ? "Right, one a line" : "Right"}>
          {(id) =>
            short.kind === "word" ? (
              <Input.TextArea id={id} rows={2} value={short.expected} onChange={(event) => putShort({ expected: event.target.value })} />
            ) : (
              <Input id={id} value={short.expected} onChange={(event) => putShort({ expected: event.target.value })} />
            )
          }
        </Field>
        {short.kind === "number" && (
          <>
            <Field label="Unit">
              {(id) => <Input id={id} value={short.unit} maxLength={40} onChange={(event) => putShort({ unit: event.target.value })} />}
            </Field>
            <Field label="Within">
              {(id) => (
                <InputNumber
                  id={id}
                  min={0}
                  max={100}
                  step={0.5}
                  suffix="%"
                  value={Math.round(short.tolerance * 100_000) / 1000}
                  onChange={(percent) => putShort({ tolerance: (percent ?? 0) / 100 })}
                />
              )}
            </Field>
          </>
        )}
      </div>
      <p className="soft">
        Left empty, a marker decides.{" "}
        {short.kind === "number" && "Another unit of the same kind is converted; a number without its unit is left to the marker."}
        {short.kind === "maths" && "Any expression of the same value is right: 12x² as 12·x^2."}
      </p>
    </fieldset>
  );
}

function Field({ label, hint = "", children }: { label: string; hint?: string; children: (id: string) => React.ReactNode }) {
  const id = useId();
  return (
    <div className="how-field">
      <span>
        <label htmlFor={id}>{label}</label> <span className="soft">{hint}</span>
      </span>
      {children(id)}
    </div>
  );
}

/** Why it cannot be so; the server says the same. */
function troubleOf({ kinds, choices }: Answering): string {
  if (kinds.length === 0) return "Tick at least one way to answer.";
  if (!kinds.includes("chosen")) return "";
  const texts = choices.map((one) => one.text.trim());
  if (choices.length < 2) return "Give at least two choices.";
  if (texts.includes("")) return "A choice is empty.";
  return new Set(texts).size < texts.length ? "Two choices are the same." : "";
}

