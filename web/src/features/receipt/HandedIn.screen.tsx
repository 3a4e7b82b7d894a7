import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { editionQuery } from "../../folio/editionQuery";
import { Reader } from "../../folio/Reader";
import { Talk } from "../../folio/Talk";
import { queryKeys } from "../../shared/queryKeys";
import { dayAndTime } from "../../shared/time";
import { Masthead } from "../../shared/ui/Masthead";
import { Trouble } from "../../shared/ui/Trouble";
import "./HandedIn.css";

/** One's own edition as its reader sees it: page by page, and by question. */
export default function HandedIn() {
  const params = useParams();
  const path = { folio_id: Number(params.folioId), number: Number(params.number) };
  const reading = useQuery(editionQuery(path.folio_id, path.number));
  const data = reading.data;
  const queries = useQueryClient();
  const anew = () => void queries.invalidateQueries({ queryKey: queryKeys.reading(path.folio_id, path.number) });
  return (
    <div className="handed-in">
      <Masthead help="reading" title={data?.assignment.title ?? ""} course={data?.assignment.course} />
      {reading.isError && <Trouble error={reading.error} onRetry={() => void reading.refetch()} />}
      {data && (
        <>
          <p className="handed-in-head">
            <strong>
              Edition {path.number}
              {data.handed_in_at && `, handed in ${dayAndTime(data.handed_in_at, data.assignment.time_zone)}`}
            </strong>{" "}
            <Link to={`/folios/${path.folio_id}/editions/${path.number}`}>Back to the receipt</Link>
          </p>
          <main className="handed-in-pages">
            <h1 className="unseen">What was handed in</h1>
            <Reader
              folio={data}
              atPage={(page) => (
                <Talk folioId={path.folio_id} page={page.id} words={data.words} zone={data.assignment.time_zone} ask="Ask or tell the reader about this page" onSaid={anew} />
              )}
            />
          </main>
        </>
      )}
    </div>
  );
}
