import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useLocation, useNavigate, useParams } from "react-router";
import { answer, api, type Schemas } from "../../shared/api/client";
import { usePlaceInTab } from "../../shared/tabTitle";
import { Masthead } from "../../shared/ui/Masthead";
import { dayAndTime } from "../../shared/time";
import { Trouble } from "../../shared/ui/Trouble";
import { useFolioList } from "../../folio/useFolioList";
import { editionQuery } from "../../folio/editionQuery";
import { labelIn } from "../../folio/labelIn";
import { pointsWords } from "../../folio/marked/pointsWords";
import { Reader } from "../../folio/Reader";
import { Talk } from "../../folio/Talk";
import { queryKeys } from "../../shared/queryKeys";
import { lazily } from "../../shared/ui/later";
import { PageDeeds, Withdraw } from "./PageDeeds";
import "./Reading.css";

const InkOver = lazily(async () => (await import("../../folio/marked/InkOver")).InkOver);
const AskAgain = lazily(async () => (await import("./AskAgain")).AskAgain);
type Line = Schemas["FolioLine"];

/** One handed-in folio, question by question, with those beside it already on their way, at the same question. */
export default function Reading() {
  const params = useParams();
  const [assignmentId, folioId, number] = [Number(params.assignmentId), Number(params.folioId), Number(params.number)];
  const { hash } = useLocation();
  const navigate = useNavigate();
  const reading = useQuery(editionQuery(folioId, number));
  const handedIn = useFolioList(assignmentId).data?.folios.filter((one) => one.edition !== null) ?? [];
  const at = handedIn.findIndex((one) => one.folio_id === folioId);
  const [before, after] = [handedIn[at - 1], at < 0 ? undefined : handedIn[at + 1]];
  useFetchedAhead(after, hash);
  useFetchedAhead(before, hash);
  const label = labelIn(hash);
  const marked = useMarked(folioId, number);
  const address = (one: Line) => `/reading/${assignmentId}/${one.folio_id}/${one.edition}${hash}`;
  const queries = useQueryClient();
  const [asking, setAsking] = useState<number | null>(null); // the page, 0 for all of it
  const anew = () => void queries.invalidateQueries({ queryKey: queryKeys.reading(folioId, number) });
  const student = reading.data?.student ?? "";
  usePlaceInTab([label, student, reading.data?.assignment.title].filter(Boolean).join(" · "));
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
            {data.whole && (
              <button type="button" className="plain" onClick={() => setAsking(0)}>
                Ask again …
              </button>
            )}
            <nav aria-label="Folios">
              {before && <Link to={address(before)}>← {before.student}</Link>}
              <Link to={`/marking/${assignmentId}/${folioId}${hash}`}>Mark it</Link>
              <Link to={`/reading/${assignmentId}`}>All folios</Link>
              {after && <Link to={address(after)}>{after.student} →</Link>}
            </nav>
          </div>
          {data.answers.map((one) => (
            <p key={`${one.what} ${one.number}`} className="reading-comment">
              Answers what {one.by} asked for{one.number !== null && ` (page ${one.number})`}: “{one.reason}”{" "}
              {one.before !== null && <Link to={`/folios/${folioId}/editions/${one.before}/compared/${number}`}>Compare with edition {one.before}</Link>}
            </p>
          ))}
          {data.askings
            .filter((one) => one.page === null)
            .map((one) => (
              <p key={one.id} className="reading-comment red">
                {one.what === "place" ? "Asked to say which pages answer what" : "Asked for all of it again"} until{" "}
                {dayAndTime(one.until, data.assignment.time_zone)}: “{one.reason}” <Withdraw asking={one} onDone={anew} />
              </p>
            ))}
          {data.words.some((one) => one.page === null) && (
            <div className="reading-comment">
              <Talk folioId={folioId} page={null} words={data.words} zone={data.assignment.time_zone} onSaid={anew} />
            </div>
          )}
          {data.honour && <p className="reading-comment">Confirmed by handing in: “{data.honour}”</p>}
          {data.comment && <p className="reading-comment">“{data.comment}”</p>}
          <main>
            <Reader
              key={`${folioId}-${number}`}
              folio={data}
              points={marked.points}
              overPage={(page) => marked.ink.has(page.id) && <InkOver page={page} ink={marked.ink.get(page.id) ?? []} />}
              atPage={(page) => <PageDeeds folio={data} page={page} onAsk={() => setAsking(page.number)} onChanged={anew} />}
              onStudent={(by) => {
                const next = by > 0 ? after : before;
                if (next) void navigate(address(next));
              }}
            />
          </main>
          {asking !== null && <AskAgain folio={data} page={asking === 0 ? null : asking} onClose={() => setAsking(null)} onAsked={anew} />}
        </>
      )}
    </div>
  );
}

/** Points by label and ink by page, as far as there are any: they come after the pages, which do not wait for them. */
function useMarked(folioId: number, number: number) {
  const { data } = useQuery({
    queryKey: queryKeys.markedEdition(folioId, number),
    queryFn: () => answer(api.GET("/api/folios/{folio_id}/editions/{number}/marked", { params: { path: { folio_id: folioId, number } } })),
  });
  const points = new Map((data?.points ?? []).map((one) => [one.label, pointsWords(one.points)]));
  return { points, ink: new Map((data?.pages ?? []).map((one) => [one.page, one.ink])) };
}

/** The folio beside this one, with the pictures that will be looked at first. */
function useFetchedAhead(beside: Line | undefined, hash: string) {
  const queries = useQueryClient();
  const [folioId, edition] = [beside?.folio_id ?? null, beside?.edition ?? null];
  useEffect(() => {
    if (folioId === null || edition === null) return;
    void queries.fetchQuery(editionQuery(folioId, edition)).then((folio) => {
      const label = labelIn(hash);
      const wanted = folio.questions.find((one) => one.label === label)?.spots.map((spot) => spot.page) ?? [1, 2];
      for (const page of folio.pages) if (page.image && wanted.includes(page.number)) new Image().src = page.image;
    });
  }, [folioId, edition, hash, queries]);
}
