import { useQuery } from "@tanstack/react-query";
import { Table } from "antd";
import { Link, useParams } from "react-router";
import { answer, api, type Schemas } from "../../shared/api/client";
import { Masthead } from "../../shared/Masthead";
import { dayAndTime } from "../../shared/time";
import { Trouble } from "../../shared/Trouble";
import { count } from "../../shared/words";
import "./FolioList.css";

type Line = Schemas["FolioLine"];

/** The instructor's list: every student of the course, who has handed in and what is open. */
export default function FolioList() {
  const assignmentId = Number(useParams().assignmentId);
  const folios = useFolioList(assignmentId);
  const data = folios.data;
  return (
    <div className="screen">
      <Masthead title={data?.assignment.title ?? ""} course={data?.assignment.course} />
      <main>
        {folios.isError && <Trouble error={folios.error} onRetry={() => void folios.refetch()} />}
        {data && (
          <>
            <h1>
              {data.folios.filter((one) => one.edition !== null).length} of {count(data.folios.length, "student")} handed
              in
            </h1>
            <p className="soft">Due {dayAndTime(data.due, data.assignment.time_zone)}</p>
            <Lines lines={data.folios} assignmentId={assignmentId} zone={data.assignment.time_zone} />
          </>
        )}
      </main>
    </div>
  );
}

export function useFolioList(assignmentId: number) {
  return useQuery({
    queryKey: ["folio-list", assignmentId],
    refetchInterval: 30_000,
    queryFn: () => {
      const path = { assignment_id: assignmentId };
      return answer(api.GET("/api/assignments/{assignment_id}/folios", { params: { path } }));
    },
  });
}

function Lines({ lines, assignmentId, zone }: { lines: Line[]; assignmentId: number; zone: string }) {
  return (
    <Table<Line>
      className="folio-list"
      dataSource={lines}
      rowKey="email"
      pagination={false}
      size="small"
      columns={[
        {
          title: "Student",
          sorter: (a, b) => a.student.localeCompare(b.student),
          render: (_, one) =>
            one.folio_id !== null && one.edition !== null ? (
              <Link to={`/reading/${assignmentId}/${one.folio_id}/${one.edition}`}>{one.student}</Link>
            ) : (
              one.student
            ),
        },
        { title: "Number", dataIndex: "number", responsive: ["md"] },
        { title: "Handed in", sorter: byHandIn, render: (_, one) => <HandedIn line={one} zone={zone} /> },
        { title: "Edition", dataIndex: "edition", align: "right" },
        { title: "Pages", align: "right", render: (_, one) => (one.edition === null ? "" : one.pages) },
        {
          title: "Open questions",
          sorter: (a, b) => a.open_labels.length - b.open_labels.length,
          render: (_, one) => <OpenQuestions line={one} />,
        },
      ]}
    />
  );
}

function byHandIn(a: Line, b: Line): number {
  return (a.handed_in_at ?? "~").localeCompare(b.handed_in_at ?? "~");
}

function HandedIn({ line, zone }: { line: Line; zone: string }) {
  if (line.handed_in_at)
    return (
      <>
        {dayAndTime(line.handed_in_at, zone)}
        {line.verdict === "late" && <strong className="red"> late</strong>}
      </>
    );
  return <span className="soft">{line.begun_at ? `begun ${dayAndTime(line.begun_at, zone)}` : "not begun"}</span>;
}

function OpenQuestions({ line }: { line: Line }) {
  if (line.edition === null) return null;
  if (line.open_labels.length === 0) return <span className="soft">none</span>;
  return <span className="red">{line.open_labels.join(" ")}</span>;
}
