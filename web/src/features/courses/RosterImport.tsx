import { useMutation } from "@tanstack/react-query";
import { Checkbox, Input, Select, Upload } from "antd";
import { useState } from "react";
import { answer, api, type Schemas } from "../../shared/api/client";
import { Button } from "../../shared/ui/Button";
import { Dialog } from "../../shared/ui/Dialog";
import { Themed } from "../../shared/ui/Themed";
import { Trouble } from "../../shared/ui/Trouble";
import { count } from "../../shared/words";
import { useRosterChanged } from "./useRosterChanged";

type Column = keyof Schemas["RosterReadOut"]["columns"];
const COLUMNS: { value: Column; label: string }[] = [
  { value: "name", label: "whole name" },
  { value: "given_name", label: "given name" },
  { value: "family_name", label: "family name" },
  { value: "number", label: "number" },
  { value: "email", label: "mail address" },
  { value: "section", label: "section" },
  { value: "role", label: "role" },
  { value: "extra_time", label: "extra time" },
];
const ENCODINGS: Record<string, string> = { "utf-8": "UTF-8", "utf-8-sig": "UTF-8", "utf-16": "UTF-16", cp1252: "Windows-1252", "latin-1": "Latin-1" };
const SEPARATORS: Record<string, string> = { ",": "commas", ";": "semicolons", "\t": "tabs" };

/** A roster from a file or pasted: what it would change is shown first; nobody is removed unless it is said here. */
export function RosterImport({ course, onClose }: { course: Schemas["CourseOut"]; onClose: () => void }) {
  const changed = useRosterChanged(course.id);
  const [data, setData] = useState("");
  const [pasted, setPasted] = useState("");
  const [remove, setRemove] = useState<number[]>([]);
  const [invite, setInvite] = useState(true);
  const params = { path: { course_id: course.id } };
  const read = useMutation({
    mutationFn: (body: Schemas["RosterFileIn"]) => answer(api.POST("/api/courses/{course_id}/roster/read", { params, body })),
  });
  const take = useMutation({
    mutationFn: (body: Schemas["RosterTakeIn"]) => answer(api.POST("/api/courses/{course_id}/roster", { params, body })),
    onSuccess: changed,
  });
  const look = (bytes: string, columns: Partial<Record<Column, number>> | null = null) => {
    setData(bytes);
    setRemove([]);
    take.reset();
    read.mutate({ data: bytes, columns: columns as Record<Column, number> | null });
  };
  const told = read.data;
  return (
    <Dialog title={`A roster for ${course.code}`} width={820} onClose={onClose}>
      <Themed>
        <div className="roster-told">
          {!told && (
            <div className="roster-drop">
              <Upload.Dragger
                accept=".csv,.txt,.tsv,.zip,text/csv,text/plain,application/zip"
                showUploadList={false}
                beforeUpload={async (file) => {
                  look(base64(new Uint8Array(await file.arrayBuffer())));
                  return Upload.LIST_IGNORE;
                }}
              >
                <p>
                  <strong>Drop a CSV here</strong>, or choose one
                </p>
                <p className="soft">Names, number, mail address, section, role, extra time; any order of columns.</p>
              </Upload.Dragger>
              <Input.TextArea
                aria-label="Or paste lines"
                placeholder={"Or paste lines from a table:\nIlse\tMarrow\t30417\timarrow@kestrelpoint.example"}
                rows={4}
                value={pasted}
                onChange={(event) => setPasted(event.target.value)}
              />
              <p className="roster-foot">
                <Button disabled={pasted.trim() === ""} busy={read.isPending} onClick={() => look(base64(new TextEncoder().encode(pasted)))}>
                  Look at the lines
                </Button>
              </p>
            </div>
          )}
          {read.error && <Trouble error={read.error} />}
          {told && !take.isSuccess && (
            <>
              <Columns told={told} onChange={(columns) => look(data, columns)} />
              <p>
                <strong>{count(told.added.length, "person", "people")} new</strong>, {told.changed.length} changed, {told.same} as they were
                {told.bad.length > 0 && <strong className="red">, {count(told.bad.length, "row")} that cannot be taken</strong>}.
              </p>
              {told.bad.length > 0 && (
                <section aria-label="Rows that cannot be taken">
                  <h3>These rows are left out; the others go on</h3>
                  <ul className="roster-rows">
                    {told.bad.map((row) => (
                      <li key={row.line}>
                        <strong>Line {row.line}</strong> <span className="soft">{row.text}</span>: {row.reason}
                      </li>
                    ))}
                  </ul>
                </section>
              )}
              {told.changed.length > 0 && (
                <section aria-label="What changes">
                  <h3>What changes</h3>
                  <ul className="roster-rows">
                    {told.changed.map((one) => (
                      <li key={one.line}>
                        {one.name || one.email}: {one.words.join("; ")}
                      </li>
                    ))}
                  </ul>
                </section>
              )}
              {told.missing.length > 0 && (
                <section aria-label="Not in the file">
                  <h3>{count(told.missing.length, "student")} on the roster, not in this file: they stay, but for those you choose</h3>
                  <Checkbox
                    checked={remove.length === told.missing.length}
                    indeterminate={remove.length > 0 && remove.length < told.missing.length}
                    onChange={(event) => setRemove(event.target.checked ? told.missing.map((one) => one.id) : [])}
                  >
                    Take all of them off
                  </Checkbox>
                  <ul className="roster-rows">
                    {told.missing.map((one) => (
                      <li key={one.id}>
                        <Checkbox
                          checked={remove.includes(one.id)}
                          onChange={(event) => setRemove((now) => (event.target.checked ? [...now, one.id] : now.filter((id) => id !== one.id)))}
                        >
                          {one.name} <span className="soft">{one.email}</span>
                          {one.begun > 0 && <span className="red"> has begun {count(one.begun, "folio")}, kept in any case</span>}
                        </Checkbox>
                      </li>
                    ))}
                  </ul>
                </section>
              )}
              <Checkbox checked={invite} onChange={(event) => setInvite(event.target.checked)}>
                Send new people a link to set their password
              </Checkbox>
              {take.error && <Trouble error={take.error} />}
              <p className="roster-foot">
                <Button
                  first
                  busy={take.isPending || read.isPending}
                  disabled={told.added.length + told.changed.length + remove.length === 0}
                  onClick={() => take.mutate({ data, columns: told.columns, remove, invite })}
                >
                  {wordsOf(told, remove.length)}
                </Button>
                <button type="button" className="plain" onClick={() => read.reset()}>
                  Another file
                </button>
              </p>
            </>
          )}
          {take.isSuccess && (
            <>
              <p role="status">
                <strong>
                  {take.data.added} added, {take.data.changed} changed, {take.data.removed} taken off.
                </strong>{" "}
                {take.data.invited > 0 && `${count(take.data.invited, "link")} to set a password went out by mail.`}
              </p>
              <p>
                <Button first onClick={onClose}>
                  Done
                </Button>
              </p>
            </>
          )}
        </div>
      </Themed>
    </Dialog>
  );
}

function wordsOf(told: Schemas["RosterReadOut"], removed: number): string {
  const parts = [
    told.added.length > 0 && `add ${told.added.length}`,
    told.changed.length > 0 && `change ${told.changed.length}`,
    removed > 0 && `take ${removed} off`,
  ].filter((one) => typeof one === "string");
  const words = parts.join(", ") || "nothing to do";
  return words.charAt(0).toUpperCase() + words.slice(1);
}

/** Which column says what, over the first rows; each can be set right. */
function Columns({ told, onChange }: { told: Schemas["RosterReadOut"]; onChange: (columns: Partial<Record<Column, number>>) => void }) {
  const wide = Math.max(told.header.length, ...told.sample.map((row) => row.length));
  const at = (place: number) => (Object.keys(told.columns) as Column[]).find((column) => told.columns[column] === place);
  const put = (place: number, column: Column | undefined) => {
    const others = Object.entries(told.columns).filter(([name, where]) => where !== place && name !== column);
    onChange(Object.fromEntries(column ? [...others, [column, place]] : others));
  };
  return (
    <section aria-label="Columns">
      <p className="soft">
        Read as {ENCODINGS[told.encoding] ?? told.encoding} with {SEPARATORS[told.separator] ?? told.separator}.
      </p>
      <div className="roster-columns">
        {Array.from({ length: wide }, (_, place) => (
          <label key={place} htmlFor={`column-${place}`}>
            <Select<Column>
              id={`column-${place}`}
              aria-label={`Column ${place + 1}`}
              size="small"
              allowClear
              placeholder="left out"
              style={{ width: 130 }}
              options={COLUMNS}
              value={at(place)}
              onChange={(column) => put(place, column)}
            />
            <span className="soft">{told.header[place] ?? `column ${place + 1}`}</span>
            <span>{told.sample[0]?.[place] ?? ""}</span>
          </label>
        ))}
      </div>
    </section>
  );
}

function base64(bytes: Uint8Array): string {
  let text = "";
  for (let at = 0; at < bytes.length; at += 0x8000) text += String.fromCharCode(...bytes.subarray(at, at + 0x8000));
  return btoa(text);
}
