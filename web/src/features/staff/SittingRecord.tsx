import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { answer, api, type Schemas } from "../../shared/api/client";
import { Masthead } from "../../shared/Masthead";
import { clockTime, dayAndTime } from "../../shared/time";
import { Trouble } from "../../shared/Trouble";
import { eventWords } from "./eventWords";
import "./SittingRecord.css";

/** All that happened in one sitting, by the server's clock; for the course's instructors. */
export default function SittingRecord() {
  const folioId = Number(useParams().folioId);
  const record = useQuery({
    queryKey: ["record", folioId],
    refetchInterval: 15_000,
    queryFn: () => answer(api.GET("/api/folios/{folio_id}/record", { params: { path: { folio_id: folioId } } })),
  });
  const data = record.data;
  return (
    <div className="screen">
      <Masthead title={data?.assignment.title ?? ""} course={data?.assignment.course} />
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
      <table className="record">
        <thead>
          <tr>
            <th>When</th>
            <th>What</th>
          </tr>
        </thead>
        <tbody>
          {record.events.map((event, number) => (
            <tr key={number}>
              <td>
                {dayAndTime(event.at, zone)}:{clockTime(event.at, zone, true).slice(-2)}
              </td>
              <td>{eventWords(event, zone)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p>
        <Link to={`/reading/${record.assignment.id}`}>All students</Link>
      </p>
    </>
  );
}
