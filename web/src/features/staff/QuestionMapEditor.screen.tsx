import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Input, InputNumber } from "antd";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { changeWords } from "../../folio/eventWords";
import { answer, api, type Schemas } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { AskOnce } from "../../shared/ui/AskOnce";
import { Button } from "../../shared/ui/Button";
import { Masthead } from "../../shared/ui/Masthead";
import { Table } from "../../shared/ui/Table";
import { Themed } from "../../shared/ui/Themed";
import { Trouble } from "../../shared/ui/Trouble";
import { count } from "../../shared/words";
import "./QuestionMapEditor.css";

type Saved = Schemas["QuestionMapOut"];
interface Entry {
  key: string;
  id: number | null;
  label: string;
  title: string;
  points: number;
}

/** The question map of an assignment, also of one that students have begun: what an edit does to them is told first. */
export default function QuestionMapEditor() {
  const assignmentId = Number(useParams().assignmentId);
  const map = useQuery({
    queryKey: queryKeys.questionMap(assignmentId),
    staleTime: Infinity, // what is being typed must not be taken away
    queryFn: () => {
      const path = { assignment_id: assignmentId };
      return answer(api.GET("/api/assignments/{assignment_id}/question-map", { params: { path } }));
    },
  });
  return (
    <div className="screen">
      <Masthead help="staff" title={map.data?.assignment.title ?? ""} course={map.data?.assignment.course} />
      <main>
        {map.isError && <Trouble error={map.error} onRetry={() => void map.refetch()} />}
        {map.data && <Editor key={map.data.version} saved={map.data} onReload={() => void map.refetch()} />}
      </main>
    </div>
  );
}

function Editor({ saved, onReload }: { saved: Saved; onReload: () => void }) {
  const queries = useQueryClient();
  const [entries, setEntries] = useState<Entry[]>(() => saved.entries.filter((one) => !one.removed).map(asEntry));
  const removed = saved.entries.filter((one) => !entries.some((entry) => entry.id === one.id));
  const path = { assignment_id: saved.assignment.id };
  const body = { version: saved.version, entries: entries.map(({ id, label, title, points }) => ({ id, label, title, points })) };
  const ask = useMutation({
    mutationFn: () =>
      answer(api.POST("/api/assignments/{assignment_id}/question-map/consequences", { params: { path }, body })),
  });
  const save = useMutation({
    mutationFn: () => answer(api.PUT("/api/assignments/{assignment_id}/question-map", { params: { path }, body })),
    onSuccess: (now) => queries.setQueryData(queryKeys.questionMap(saved.assignment.id), now),
  });
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
  return (
    <Themed>
      <h1>Question map</h1>
      <p className="soft">
        A label is a number, then letters or roman numerals: 2, 2b, 2b(ii), 1.1a. Pages stay on a question when its label is
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
            width: 120,
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
            width: 110,
            render: (_, entry) => (
              <InputNumber
                aria-label={`Points of ${entry.label}`}
                value={entry.points}
                step={0.5}
                onChange={(points) => put(entry.key, { points: points ?? 0 })}
              />
            ),
          },
          {
            title: "",
            width: 220,
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
                  Take off the map<span className="unseen">: {entry.label}</span>
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
              onClick={() => setEntries((now) => [...now, asEntry(one)])}
            >
              {one.label}
              {one.title && ` · ${one.title}`}: put it back
            </button>
          ))}
        </p>
      )}
      {ask.error && <Trouble error={ask.error} />}
      {save.error && <Trouble error={save.error} onRetry={onReload} />}
      {save.isSuccess && <p role="status">Saved. Everybody who has begun is told on the board.</p>}
      <p className="map-editor-foot">
        <Button
          onClick={() =>
            setEntries((now) => [...now, { key: crypto.randomUUID(), id: null, label: "", title: "", points: 0 }])
          }
        >
          Add a question
        </Button>
        <Button first busy={ask.isPending || save.isPending} onClick={() => ask.mutate()}>
          Save the map
        </Button>
        <Link to={`/reading/${saved.assignment.id}`}>All folios</Link>
      </p>
      {told && (
        <AskOnce
          title={told.changes.length > 0 ? "Change the question map?" : "Save titles, points and order?"}
          yes="Save it"
          no="Go on editing"
          onNo={() => ask.reset()}
          onYes={() => {
            ask.reset();
            save.mutate();
          }}
        >
          {told.losing.map(({ label, students }) => (
            <p key={label} className="red">
              {count(students, "student")} placed pages on {label} or left it blank. That is kept, and comes back if {label} does.
            </p>
          ))}
          {told.changes.length > 0 && <p>{told.changes.map(changeWords).join("; ")}.</p>}
          <p className="soft">
            {told.begun === 0 ? "Nobody has begun yet." : `${count(told.begun, "student")} who have begun are told at once.`}
          </p>
        </AskOnce>
      )}
    </Themed>
  );
}

function asEntry({ id, label, title, points }: Saved["entries"][number]): Entry {
  return { key: String(id), id, label, title, points };
}
