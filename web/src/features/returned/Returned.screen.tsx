import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { Link, useLocation, useParams } from "react-router";
import { ReaderAnswer } from "../../folio/answers/ReaderAnswer";
import { Bars } from "../../folio/marked/Bars";
import { CutPicture } from "../../folio/marked/CutPicture";
import { MarkTalk } from "../../folio/marked/MarkTalk";
import { pointsWords } from "../../folio/marked/pointsWords";
import { Prose } from "../../folio/Prose";
import { labelIn } from "../../folio/labelIn";
import { answer, api, type Schemas } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { usePlaceInTab } from "../../shared/tabTitle";
import { dayAndTime } from "../../shared/time";
import { FileButton } from "../../shared/ui/Button";
import { Masthead } from "../../shared/ui/Masthead";
import { Trouble } from "../../shared/ui/Trouble";
import "./Returned.css";

type Back = Schemas["ReturnedOut"];
type Question = Schemas["ReturnedQuestion"];

/** Marked work given back: each question with one's own page, the marker's ink, points and notes. */
export default function Returned() {
  const folioId = Number(useParams().folioId);
  const { hash } = useLocation();
  const back = useQuery({
    queryKey: queryKeys.returned(folioId),
    queryFn: () => answer(api.GET("/api/folios/{folio_id}/returned", { params: { path: { folio_id: folioId } } })),
  });
  const data = back.data;
  const label = labelIn(hash);
  usePlaceInTab(["Your marks", data?.assignment.title].filter(Boolean).join(" · "));
  useEffect(() => {
    if (data && label) document.getElementById(`question-${label}`)?.scrollIntoView();
  }, [data, label]);
  return (
    <div className="screen">
      <Masthead help="returned" title={data?.assignment.title ?? ""} course={data?.assignment.course} />
      <main className="returned">
        {back.isError && <Trouble error={back.error} onRetry={() => void back.refetch()} />}
        {data && (
          <>
            <Head data={data} />
            {data.questions.map((one) => (
              <Answer key={one.id} data={data} question={one} />
            ))}
          </>
        )}
      </main>
    </div>
  );
}

function Head({ data }: { data: Back }) {
  const { total } = data;
  const zone = data.assignment.time_zone;
  return (
    <header className="returned-head">
      <div>
        <h1>{total ? <span className="returned-total">{pointsWords(total.points)} of {pointsWords(total.most)} points</span> : "Your marked work"}</h1>
        <p className="soft">
          Given back {dayAndTime(data.at, zone)} by {data.by} · edition {data.edition}
        </p>
        {total && total.lost !== "0" && Number(total.lost) > 0 && <p>Handed in late: {pointsWords(total.lost)} taken off.</p>}
        {total && total.unmarked > 0 && <p>Not all answers have points yet.</p>}
        {data.asks_until !== null && (
          <p>{data.may_ask ? `You may ask about a mark until ${dayAndTime(data.asks_until, zone)}.` : `Questions about marks were taken until ${dayAndTime(data.asks_until, zone)}.`}</p>
        )}
      </div>
      <p className="returned-doors">
        <FileButton href={`/api/folios/${data.folio_id}/returned.pdf`}>Marked PDF</FileButton>
        {data.files.map((one) => (
          <a key={one.id} href={`/api/assignments/${data.assignment.id}/files/${one.id}`} download>
            {one.name}
          </a>
        ))}
        <Link to={`/folios/${data.folio_id}/editions/${data.edition}`}>Receipt</Link>
      </p>
      <nav aria-label="Questions">
        {data.questions.map((one) => (
          <a key={one.id} href={`#${encodeURIComponent(one.label)}`}>
            <strong>{one.label}</strong> {one.points !== null && <span className="returned-red">{pointsWords(one.points)}</span>}
            <span className="soft">/{pointsWords(one.most)}</span>
          </a>
        ))}
      </nav>
    </header>
  );
}

function Answer({ data, question }: { data: Back; question: Question }) {
  const queries = useQueryClient();
  const id = `question-${question.label}`;
  return (
    <section className="returned-answer" id={id} aria-labelledby={`${id}-head`}>
      <h2 id={`${id}-head`}>
        {question.label} <span className="returned-title">{question.title}</span>
      </h2>
      <div className="returned-strips">
        {question.spots.map((spot) => {
          const page = data.pages.find((one) => one.number === spot.page);
          return page && <CutPicture key={spot.page} cut={{ ...page, ...spot }} ink={page.ink} words={`Your answer to ${question.label}`} />;
        })}
        {question.on_screen && <ReaderAnswer answer={question.on_screen} isAt={false} keep={() => undefined} />}
        {question.spots.length === 0 && !question.on_screen && <p className="soft">{question.not_attempted ? "Left blank." : "Nothing was placed on this question."}</p>}
      </div>
      <div className="returned-margin">
        {question.points !== null ? (
          <p className="returned-points">
            {pointsWords(question.points)} <span className="soft">of {pointsWords(question.most)}</span>
          </p>
        ) : (
          <p className="soft">{data.total ? "No points yet" : ""}</p>
        )}
        {question.not_attempted && <p className="soft">not attempted</p>}
        {!question.counts && <p className="soft">does not count: others were better</p>}
        {question.note && (
          <div className="returned-note">
            <Prose text={question.note} />
          </div>
        )}
        {question.figures && question.figures.mean !== null && (
          <div className="returned-figures">
            <Bars bars={question.figures.bars} label={`The class on ${question.label}`} />
            <p className="soft">class mean {pointsWords(Math.round(question.figures.mean * 10) / 10)}</p>
          </div>
        )}
        <MarkTalk
          folioId={data.folio_id}
          question={question}
          words={question.words}
          zone={data.assignment.time_zone}
          saying={data.may_ask ? { ask: "Ask about this mark", field: `Your question about ${question.label}` } : null}
          onSaid={() => void queries.invalidateQueries({ queryKey: queryKeys.returned(data.folio_id) })}
        />
      </div>
    </section>
  );
}
