import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { answer, api, type Schemas } from "../../shared/api/client";
import { Masthead } from "../../shared/ui/Masthead";
import { clockTime, dayAndTime } from "../../shared/time";
import { Table } from "../../shared/ui/Table";
import { Trouble } from "../../shared/ui/Trouble";
import { eventWords } from "../../folio/eventWords";
import { pointsWords } from "../../folio/marked/pointsWords";
import "./SittingRecord.css";
import { queryKeys } from "../../shared/queryKeys";

/** All that happened in one sitting, by the server's clock; for the course's instructors. */
export default function SittingRecord() {
  const folioId = Number(useParams().folioId);
  const record = useQuery({
    queryKey: queryKeys.record(folioId),
    refetchInterval: 15_000,
    queryFn: () => answer(api.GET("/api/folios/{folio_id}/record", { params: { path: { folio_id: folioId } } })),
  });
  const data = record.data;
  return (
    <div className="screen">
      <Masthead help="staff" title={data?.assignment.title ?? ""} course={data?.assignment.course} />
      <main>
        {record.isError && <Trouble error={record.error} onRetry={() => void record.refetch()} />}
        {data && <Lines record={data} />}
      </main>
    </div>
  );
}

function Lines({ record }: { record: Schemas["RecordOut"] }) {
  const zone = record.assignment.time_zone;
  return (
    <>
      <h1>
        {record.student} <span className="soft">no. {record.student_number}</span>
      </h1>
      <p className="soft">
        Begun {dayAndTime(record.window.begun ?? record.window.opens, zone)}, closes {dayAndTime(record.window.closes, zone)}. All
        times are the server’s. Nothing here can be changed or removed.
      </p>
      <Table
        className="record"
        size="small"
        pagination={false}
        rowKey={(_, number) => `${number}`}
        dataSource={record.events}
        columns={[
          { title: "When", width: 190, render: (_, one) => `${dayAndTime(one.at, zone)}:${clockTime(one.at, zone, true).slice(-2)}` },
          { title: "What", render: (_, one) => eventWords(one.event, zone) },
        ]}
      />
      {record.marks.length > 0 && <Marks marks={record.marks} zone={zone} />}
      <p>
        <Link to={`/reading/${record.assignment.id}`}>All students</Link>
      </p>
    </>
  );
}

type Given = Schemas["MarkGivenOut"];

/** Who gave which points and notes, one after another. */
function Marks({ marks, zone }: { marks: Given[]; zone: string }) {
  return (
    <>
      <h2>Marks given</h2>
      <Table<Given>
        className="record"
        size="small"
        pagination={false}
        rowKey={(one) => `${one.at} ${one.label} ${one.round}`}
        dataSource={marks}
        columns={[
          { title: "When", width: 190, render: (_, one) => `${dayAndTime(one.at, zone)}:${clockTime(one.at, zone, true).slice(-2)}` },
          { title: "Question", width: 110, render: (_, one) => <strong>{one.label}</strong> },
          { title: "Points", width: 130, render: (_, one) => (one.not_attempted ? "not attempted" : one.points === null ? "taken off" : pointsWords(one.points)) },
          { title: "By", width: 200, render: (_, one) => `${one.by}${one.round === "first" ? "" : ` (${one.round})`}` },
          { title: "Note", dataIndex: "note" },
        ]}
      />
    </>
  );
}
