import { Checkbox } from "antd";
import { useState } from "react";
import { Moment } from "../../folio/Moment";
import type { Schemas } from "../../shared/api/client";
import { AskOnce } from "../../shared/ui/AskOnce";
import { Button } from "../../shared/ui/Button";
import { Themed } from "../../shared/ui/Themed";
import { Trouble } from "../../shared/ui/Trouble";
import { count } from "../../shared/words";
import { findingWords } from "./findingWords";

interface Props {
  data: Schemas["GivingBackOut"];
  chosen: readonly number[];
  busy: boolean;
  error: Error | null;
  done: boolean;
  onGive: (body: Schemas["GiveBackIn"]) => void;
  onAll: () => void;
}

const PARTS = [
  { name: "points", words: "points and totals" },
  { name: "notes", words: "notes" },
  { name: "ink", words: "ink on the pages" },
  { name: "figures", words: "how the class did" },
] as const;

/** What is given back, to whom and when; asked once, with what was forgotten. */
export function GiveBack({ data, chosen, busy, error, done, onGive, onAll }: Props) {
  const [parts, setParts] = useState({ points: true, notes: true, ink: true, figures: false });
  const [leftOut, setLeftOut] = useState<number[]>([]);
  const [opens, setOpens] = useState<string | null>(null);
  const [asks, setAsks] = useState<string | null>(null);
  const [asking, setAsking] = useState(false);
  const folios = data.folios.filter((one) => chosen.includes(one.folio_id));
  const found = folios.flatMap((one) => one.findings.map((finding) => ({ student: one.student, finding })));
  return (
    <section className="give-back" aria-label="Give back">
      <Themed>
        <p>
          With{" "}
          {PARTS.map(({ name, words }) => (
            <Checkbox key={name} checked={parts[name]} onChange={({ target }) => setParts((now) => ({ ...now, [name]: target.checked }))}>
              {words}
            </Checkbox>
          ))}
          {data.files.map(({ id, name }) => (
            <Checkbox key={id} checked={!leftOut.includes(id)} onChange={({ target }) => setLeftOut((now) => (target.checked ? now.filter((one) => one !== id) : [...now, id]))}>
              {name}
            </Checkbox>
          ))}
        </p>
        <p>
          <label htmlFor="give-back-at">Seen from</label> <Moment id="give-back-at" value={opens} clear onChange={setOpens} /> <span className="soft">{opens === null && "at once"}</span>{" "}
          <label htmlFor="give-back-asks">Questions about marks until</label> <Moment id="give-back-asks" value={asks} clear onChange={setAsks} />{" "}
          <span className="soft">{asks === null && "not taken here"}</span>
        </p>
      </Themed>
      {error && <Trouble error={error} />}
      <p>
        <Button first disabled={chosen.length === 0} busy={busy} onClick={() => setAsking(true)}>
          {chosen.length === 0 ? "Give back" : `Give ${count(chosen.length, "folio")} back`} …
        </Button>{" "}
        {chosen.length < data.folios.length && (
          <button type="button" className="plain" onClick={onAll}>
            Choose all
          </button>
        )}{" "}
        {done && <span role="status">Done. Each student is told as soon as they see it.</span>}
      </p>
      {asking && (
        <AskOnce
          title={`Give ${count(folios.length, "folio")} back?`}
          no="Not yet"
          yes={opens === null ? "Give back now" : "Give back then"}
          onNo={() => setAsking(false)}
          onYes={() => {
            setAsking(false);
            onGive({ folios: [...chosen], ...parts, without_files: leftOut, opens_at: opens, asks_until: asks });
          }}
        >
          {found.length > 0 ? (
            <>
              <p>
                <strong className="red">Look again:</strong>
              </p>
              <ul className="give-back-found">
                {found.slice(0, 12).map(({ student, finding }) => (
                  <li key={`${student} ${finding.code}`}>
                    {student}: {findingWords(finding)}
                  </li>
                ))}
                {found.length > 12 && <li>and {found.length - 12} more</li>}
              </ul>
            </>
          ) : (
            <p>Every answer has its points.</p>
          )}
          <p className="soft">Students get the marks as they are now. They can be taken back only with a word why.</p>
        </AskOnce>
      )}
    </section>
  );
}
