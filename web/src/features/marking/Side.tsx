import { Link } from "react-router";
import { Prose } from "../../folio/Prose";
import { pointsWords } from "../../folio/marked/pointsWords";
import type { Schemas } from "../../shared/api/client";
import { count } from "../../shared/words";
import { Bars } from "../../folio/marked/Bars";

interface Props {
  assignmentId: number;
  overview: Schemas["MarkingOut"];
  /** The question whose answers are shown; with one student's folio there is none. */
  question: Schemas["MarkedQuestionOut"] | undefined;
  folioId: number | null;
  /** Of the answers shown: how many have points, and what. */
  shown: { marked: number; of: number; mean: number | null; bars: readonly number[] };
  said: readonly Schemas["SaidBefore"][];
  onSay: (text: string) => void;
}

/** Beside the roll: how far all questions are, how this one came out, and what was said on it. */
export function Side({ assignmentId, overview, question, folioId, shown, said, onSay }: Props) {
  return (
    <aside className="marking-side" aria-label="All questions, and what was said">
      <h2>{folioId === null ? "All questions" : "All students"}</h2>
      {folioId === null ? (
        <ol className="marking-progress">
          {overview.questions.map((one) => {
            const marked = one.id === question?.id ? shown.marked : one.marked;
            return (
              <li key={one.id}>
                <Link to={`/marking/${assignmentId}#${encodeURIComponent(one.label)}`} aria-current={one.id === question?.id}>
                  <strong>{one.label}</strong>
                  <span className="marking-bar" aria-hidden="true">
                    <i style={{ width: `${one.answers === 0 ? 0 : (100 * marked) / one.answers}%` }} />
                  </span>
                  <span className="soft">
                    {marked}
                    <span className="unseen"> of {one.answers} marked</span>
                  </span>
                </Link>
                {one.differs > 0 && <span className="red"> {one.differs} differ</span>}
                {one.look_again > 0 && <span className="red"> {one.look_again} to look at again</span>}
              </li>
            );
          })}
        </ol>
      ) : (
        <ol className="marking-students">
          {overview.students.map((one) => (
            <li key={one.folio_id}>
              <Link to={`/marking/${assignmentId}/${one.folio_id}`} aria-current={one.folio_id === folioId}>
                {one.student}
              </Link>{" "}
              <span className="soft">
                {one.total === null ? "nothing yet" : pointsWords(one.total)}
                {one.marked < one.answers && `, ${one.answers - one.marked} open`}
              </span>
            </li>
          ))}
        </ol>
      )}
      {question && (
        <>
          <h2>How {question.label} came out</h2>
          {shown.mean === null ? (
            <p className="soft">Nothing is marked yet.</p>
          ) : (
            <>
              <Bars bars={shown.bars} label={`Points for ${question.label}`} />
              <p className="marking-scale soft" aria-hidden="true">
                <span>0</span>
                <span>{pointsWords(question.points)}</span>
              </p>
              <p className="soft">
                mean {pointsWords(Math.round(shown.mean * 100) / 100)} of {pointsWords(question.points)}, {count(shown.marked, "answer")}
              </p>
            </>
          )}
          <h2>Said on {question.label}</h2>
          {said.length === 0 && <p className="soft">Nothing yet. Notes that you write are offered here again.</p>}
          <ul className="marking-said">
            {said.slice(0, 8).map((one) => (
              <li key={one.text}>
                <button type="button" className="plain" onClick={() => onSay(one.text)} title="Say it at the answer you are at">
                  <Prose text={one.text} />
                </button>
                <span className="soft"> {count(one.times, "time")}</span>
              </li>
            ))}
          </ul>
        </>
      )}
    </aside>
  );
}
