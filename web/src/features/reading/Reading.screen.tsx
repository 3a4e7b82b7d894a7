import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { Link, useParams } from "react-router";
import { Masthead } from "../../shared/ui/Masthead";
import { dayAndTime } from "../../shared/time";
import { Trouble } from "../../shared/ui/Trouble";
import { useFolioList } from "../../folio/useFolioList";
import { editionQuery } from "../../folio/editionQuery";
import { Reader } from "../../folio/Reader";
import "./Reading.css";

/** One handed-in folio, question by question, with the next one already on its way. */
export default function Reading() {
  const params = useParams();
  const [assignmentId, folioId, number] = [Number(params.assignmentId), Number(params.folioId), Number(params.number)];
  const queries = useQueryClient();
  const reading = useQuery(editionQuery(folioId, number));
  const handedIn = useFolioList(assignmentId).data?.folios.filter((one) => one.edition !== null) ?? [];
  const at = handedIn.findIndex((one) => one.folio_id === folioId);
  const [before, after] = [handedIn[at - 1], at < 0 ? undefined : handedIn[at + 1]];
  const [nextFolio, nextNumber] = [after?.folio_id ?? null, after?.edition ?? null];
  useEffect(() => {
    if (nextFolio === null || nextNumber === null) return;
    void queries.fetchQuery(editionQuery(nextFolio, nextNumber)).then((folio) => {
      for (const page of folio.pages.slice(0, 2)) new Image().src = page.image;
    });
  }, [nextFolio, nextNumber, queries]);
  const data = reading.data;
  return (
    <div className="reading">
      <Masthead help="reading" title={data?.assignment.title ?? ""} course={data?.assignment.course} />
      {reading.isError && <Trouble error={reading.error} onRetry={() => void reading.refetch()} />}
      {data && (
        <>
          <div className="reading-head">
            <h1>{data.student}</h1>
            <span className="soft">
              no. {data.student_number} · edition {data.edition}
              {data.handed_in_at && ` · handed in ${dayAndTime(data.handed_in_at, data.assignment.time_zone)}`}
            </span>
            {data.whole && (
              <a href={`/api/folios/${folioId}/editions/${number}/bound.pdf`} download>
                Bound PDF
              </a>
            )}
            <nav aria-label="Folios">
              {before && <Link to={`/reading/${assignmentId}/${before.folio_id}/${before.edition}`}>← {before.student}</Link>}
              <Link to={`/reading/${assignmentId}`}>All folios</Link>
              {after && <Link to={`/reading/${assignmentId}/${after.folio_id}/${after.edition}`}>{after.student} →</Link>}
            </nav>
          </div>
          {data.honour && <p className="reading-comment">Confirmed by handing in: “{data.honour}”</p>}
          {data.comment && <p className="reading-comment">“{data.comment}”</p>}
          <main>
            <Reader key={`${folioId}-${number}`} folio={data} />
          </main>
        </>
      )}
    </div>
  );
}
