import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { answer, api, type Schemas } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { dayAndTime } from "../../shared/time";
import { Masthead } from "../../shared/ui/Masthead";
import { Trouble } from "../../shared/ui/Trouble";
import { count, list } from "../../shared/words";
import { ReaderAnswer } from "../../folio/answers/ReaderAnswer";
import "./Compare.css";

type Side = Schemas["ComparedSide"];
type Page = Schemas["ComparedPage"];

const DIFFERENCES: Record<Page["differs"][number], string> = {
  added: "added",
  removed: "not in the later one",
  retaken: "taken again",
  moved: "moved",
  turned: "turned",
  corrected: "corners or tone changed",
};

/** Two editions side by side: what became of each page, and of each answer. */
export default function Compare() {
  const params = useParams();
  const path = { folio_id: Number(params.folioId), number: Number(params.number), other: Number(params.other) };
  const compared = useQuery({
    queryKey: queryKeys.compared(path.folio_id, path.number, path.other),
    queryFn: () => answer(api.GET("/api/folios/{folio_id}/editions/{number}/compared/{other}", { params: { path } })),
  });
  const data = compared.data;
  return (
    <div className="screen">
      <Masthead help="compare" title={data?.assignment.title ?? ""} course={data?.assignment.course} />
      <main className="compare">
        {compared.isError && <Trouble error={compared.error} onRetry={() => void compared.refetch()} />}
        {data && (
          <>
            <h1>
              Editions {data.before.edition} and {data.after.edition}
            </h1>
            <p>{summary(data)}</p>
            {data.placed.length > 0 && <Placed placed={data.placed} />}
            {data.answers.length > 0 && <Answers answers={data.answers} before={data.before.edition} after={data.after.edition} />}
            <div className="compare-sides">
              <Pages side={data.before} other={data.after.edition} zone={data.assignment.time_zone} folioId={data.folio_id} />
              <Pages side={data.after} other={data.before.edition} zone={data.assignment.time_zone} folioId={data.folio_id} />
            </div>
          </>
        )}
      </main>
    </div>
  );
}

function summary({ before, after, placed, answers, words_differ }: Schemas["ComparedOut"]): string {
  const many = (side: Side, kind: Page["differs"][number]) => side.pages.filter((page) => page.differs.includes(kind)).length;
  const said = [
    [many(after, "added"), "added"],
    [many(before, "removed"), "removed"],
    [many(after, "retaken"), "taken again"],
    [many(after, "moved"), "moved"],
    [many(after, "turned"), "turned"],
    [many(after, "corrected"), "with other corners or tone"],
  ] as const;
  const parts = said.filter(([number]) => number > 0).map(([number, words]) => `${count(number, "page")} ${words}`);
  if (placed.length > 0) parts.push(`${count(placed.length, "question")} placed otherwise`);
  if (answers.length > 0) parts.push(`another answer on the screen to ${list(answers.map((one) => one.label))}`);
  if (words_differ) parts.push("another word to the reader");
  return parts.length > 0 ? `${list(parts)}.` : "Both hold the same pages, in the same order, placed alike.";
}

function Placed({ placed }: { placed: Schemas["ComparedPlacement"][] }) {
  return (
    <section aria-labelledby="placed">
      <h2 id="placed">Placed otherwise</h2>
      <ul className="compare-placed">
        {placed.map((one) => (
          <li key={one.label}>
            <strong>{one.label}</strong> {where(one.before, one.blank_before)} → {where(one.after, one.blank_after)}
          </li>
        ))}
      </ul>
    </section>
  );
}

function Answers({ answers, before, after }: { answers: Schemas["ComparedAnswer"][]; before: number; after: number }) {
  return (
    <section aria-labelledby="answers">
      <h2 id="answers">Answered otherwise on the screen</h2>
      {answers.map((one) => (
        <div key={one.label} className="compare-answers">
          <Answer answer={one.before} edition={before} label={one.label} />
          <Answer answer={one.after} edition={after} label={one.label} />
        </div>
      ))}
    </section>
  );
}

function Answer({ answer, edition, label }: { answer: Schemas["ScreenAnswerOut"] | null; edition: number; label: string }) {
  return (
    <div>
      <p className="soft">Edition {edition}</p>
      {answer ? <ReaderAnswer answer={answer} isAt={false} keep={() => undefined} /> : <p>{label} was not answered on the screen.</p>}
    </div>
  );
}

function where(pages: number[], blank: boolean): string {
  if (blank) return "left blank";
  return pages.length > 0 ? `page ${list(pages.map(String))}` : "open";
}

function Pages({ side, other, zone, folioId }: { side: Side; other: number; zone: string; folioId: number }) {
  return (
    <section aria-labelledby={`edition-${side.edition}`}>
      <h2 id={`edition-${side.edition}`}>
        <Link to={`/folios/${folioId}/editions/${side.edition}`}>Edition {side.edition}</Link>
      </h2>
      <p className="soft">
        {dayAndTime(side.handed_in_at, zone)} · {count(side.pages.length, "page")}
        {side.taken_back_at && ` · taken back ${dayAndTime(side.taken_back_at, zone)}`}
      </p>
      <ol className="compare-pages">
        {side.pages.map((page) => (
          <li key={page.number} data-differs={page.differs.length > 0}>
            {page.preview ? (
              <img src={page.preview} width={page.width} height={page.height} loading="lazy" alt={`Page ${page.number} of edition ${side.edition}`} />
            ) : (
              <p className="soft">Being straightened …</p>
            )}
            <p>
              <strong>{page.number}</strong> <span className="soft">{page.labels.join(" ") || "nothing placed"}</span>
            </p>
            {page.differs.length > 0 && (
              <p className="compare-differs">
                {list(page.differs.map((one) => DIFFERENCES[one]))}
                {page.other !== null && page.other !== page.number && `, page ${page.other} in edition ${other}`}
              </p>
            )}
          </li>
        ))}
      </ol>
    </section>
  );
}
