import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Input, InputNumber } from "antd";
import { useMemo, useState } from "react";
import { changeWords } from "../../folio/eventWords";
import { choiceWords } from "../../folio/arrangement";
import { answer, api } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { AskOnce } from "../../shared/ui/AskOnce";
import { Button } from "../../shared/ui/Button";
import { Table } from "../../shared/ui/Table";
import { Themed } from "../../shared/ui/Themed";
import { Trouble } from "../../shared/ui/Trouble";
import { count } from "../../shared/words";
import { answeringWords, HowAnswered } from "./HowAnswered";
import { Proposal } from "./Proposal";
import "./QuestionMapEditor.css";
import { asEntry, bodyOf, type Entry, newEntry, type Saved, type WantedEntry } from "./mapEntries";
import { TypedMap } from "./TypedMap";
import { useQuestionMap } from "./useQuestionMap";

/** The question map: proposed by the paper, typed in one line, or entry by entry; what an edit does is told first. */
export function MapSection({ assignmentId }: { assignmentId: number }) {
  const map = useQuestionMap(assignmentId);
  if (map.isError) return <Trouble error={map.error} onRetry={() => void map.refetch()} />;
  return map.data ? <Editor key={map.data.version} saved={map.data} onReload={() => void map.refetch()} /> : null;
}

function Editor({ saved, onReload }: { saved: Saved; onReload: () => void }) {
  const queries = useQueryClient();
  const before = useMemo(() => saved.entries.filter((one) => !one.removed).map((one) => asEntry(one, saved)), [saved]);
  const [entries, setEntries] = useState<Entry[]>(before);
  const removed = saved.entries.filter((one) => !entries.some((entry) => entry.id === one.id));
  const path = { assignment_id: saved.assignment.id };
  const save = useMutation({
    mutationFn: (wanted: Entry[]) =>
      answer(api.PUT("/api/assignments/{assignment_id}/question-map", { params: { path }, body: bodyOf(saved, wanted) })),
    onSuccess: (now) => {
      queries.setQueryData(queryKeys.questionMap(saved.assignment.id), now);
      void queries.invalidateQueries({ queryKey: queryKeys.settingUp(saved.assignment.id) });
      void queries.invalidateQueries({ queryKey: queryKeys.proposal(saved.assignment.id) });
    },
  });
  const ask = useMutation({
    mutationFn: (wanted: Entry[]) =>
      answer(
        api.POST("/api/assignments/{assignment_id}/question-map/consequences", { params: { path }, body: bodyOf(saved, wanted) }),
      ),
    onSuccess: (consequence, wanted) => {
      if (consequence.begun === 0) save.mutate(wanted); // nobody has anything to lose
    },
  });
  /** A whole new map: entries that are called the same stay the same. */
  const putAll = (wanted: WantedEntry[]) => {
    const next = wanted.map(({ label, title, points, group = "", choose = null }): Entry => {
      const known = entries.find((one) => one.label === label) ?? saved.entries.find((one) => one.label === label);
      const entry = known && "key" in known ? known : known ? asEntry(known, saved) : newEntry(label);
      return { ...entry, title: title || entry.title, points: points ?? entry.points, group, choose };
    });
    setEntries(next);
    ask.mutate(next);
  };
  const put = (key: string, change: Partial<Entry>) =>
    setEntries((now) => now.map((entry) => (entry.key === key ? { ...entry, ...change } : entry)));
  const move = (at: number, by: 1 | -1) =>
    setEntries((now) => {
      const next = [...now];
      const [moved] = next.splice(at, 1);
      if (moved) next.splice(at + by, 0, moved);
      return next;
    });
  const told = ask.data;
  const [how, setHow] = useState<string | null>(null);
  const asked = entries.find((one) => one.key === how);
  return (
    <Themed>
      <Proposal assignmentId={saved.assignment.id} empty={before.length === 0} busy={ask.isPending || save.isPending} onUse={putAll} />
      <TypedMap assignmentId={saved.assignment.id} entries={before} onMap={putAll} />
      <p className="soft">
        A label is a number, then letters or roman numerals: 2, 2b, 2b(ii), 1.1a. Where students choose, or may add, type{" "}
        <i>any 3 of (2-6)</i> or <i>bonus (7)</i>. Pages stay on a question when its label is
        corrected. What is handed in already never changes.
      </p>
      <Table
        className="map-editor"
        size="small"
        rowKey="key"
        pagination={false}
        dataSource={entries}
        columns={[
          {
            title: "Label",
            width: 92,
            render: (_, entry, at) => (
              <Input
                aria-label={`Label of entry ${at + 1}`}
                value={entry.label}
                maxLength={24}
                onChange={(event) => put(entry.key, { label: event.target.value })}
              />
            ),
          },
          {
            title: "What is asked",
            render: (_, entry) => (
              <Input
                aria-label={`What ${entry.label} asks`}
                value={entry.title}
                maxLength={200}
                onChange={(event) => put(entry.key, { title: event.target.value })}
              />
            ),
          },
          {
            title: "Points",
            width: 92,
            render: (_, entry) => (
              <InputNumber
                aria-label={`Points of ${entry.label}`}
                value={entry.points}
                step={0.5}
                onChange={(points) => put(entry.key, { points: points ?? 0 })}
              />
            ),
          },
          ...(entries.some((one) => one.group) ? [{ title: "Choice", width: 96, render: (_: unknown, one: Entry) => choiceWords(one, entries) }] : []),
          {
            title: "Answered",
            width: 132,
            render: (_, entry) => (
              <button type="button" className="plain map-editor-how" onClick={() => setHow(entry.key)}>
                {answeringWords(entry.answering)} …<span className="unseen"> How {entry.label} is answered</span>
              </button>
            ),
          },
          {
            title: "",
            width: 150,
            render: (_, entry, at) => (
              <span className="map-editor-doors">
                <button type="button" className="plain" disabled={at === 0} onClick={() => move(at, -1)}>
                  Up<span className="unseen"> {entry.label}</span>
                </button>
                <button type="button" className="plain" disabled={at === entries.length - 1} onClick={() => move(at, 1)}>
                  Down<span className="unseen"> {entry.label}</span>
                </button>
                <button
                  type="button"
                  className="plain"
                  onClick={() => setEntries((now) => now.filter((one) => one.key !== entry.key))}
                >
                  Off<span className="unseen"> the map: {entry.label}</span>
                </button>
              </span>
            ),
          },
        ]}
      />
      {removed.length > 0 && (
        <p className="map-editor-removed">
          <span className="soft">Not on the map:</span>{" "}
          {removed.map((one) => (
            <button
              key={one.id}
              type="button"
              className="plain"
              onClick={() => setEntries((now) => [...now, asEntry(one, saved)])}
            >
              {one.label}
              {one.title && ` · ${one.title}`}: put it back
            </button>
          ))}
        </p>
      )}
      {ask.error && <Trouble error={ask.error} />}
      {save.error && <Trouble error={save.error} onRetry={onReload} />}
      <p className="map-editor-foot">
        <Button
          onClick={() =>
            setEntries((now) => [...now, newEntry("")])
          }
        >
          Add a question
        </Button>
        <Button
          busy={ask.isPending || save.isPending}
          disabled={JSON.stringify(entries) === JSON.stringify(before)}
          onClick={() => ask.mutate(entries)}
        >
          Save the map
        </Button>
        {save.isSuccess && <span role="status">Saved.</span>}
      </p>
      {asked && (
        <HowAnswered
          label={asked.label}
          answering={asked.answering}
          onClose={() => setHow(null)}
          onDone={(answering) => {
            put(asked.key, { answering });
            setHow(null);
          }}
        />
      )}
      {told && told.begun > 0 && (
        <AskOnce
          title={told.changes.length > 0 ? "Change the question map?" : "Save titles, points and order?"}
          yes="Save it"
          no="Go on editing"
          onNo={() => ask.reset()}
          onYes={() => {
            ask.reset();
            save.mutate(entries);
          }}
        >
          {told.losing.map(({ label, students }) => (
            <p key={label} className="red">
              {count(students, "student")} placed pages on {label} or left it blank. That is kept, and comes back if {label} does.
            </p>
          ))}
          {told.answered.map(({ label, students }) => (
            <p key={label} className="red">
              {count(students, "student")} answered {label} on the screen. What they answered is kept, and what is handed in stays as it is.
            </p>
          ))}
          {told.changes.length > 0 && <p>{told.changes.map(changeWords).join("; ")}.</p>}
          <p className="soft">
            {count(told.begun, "student")} who have begun are told at once.
          </p>
        </AskOnce>
      )}
    </Themed>
  );
}
