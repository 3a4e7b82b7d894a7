import { Link, useParams } from "react-router";
import { Masthead } from "../../shared/ui/Masthead";
import { MapSection } from "./MapSection";
import { useQuestionMap } from "./useQuestionMap";

/** The question map of an assignment by itself, also of one that students have begun. */
export default function QuestionMap() {
  const assignmentId = Number(useParams().assignmentId);
  const map = useQuestionMap(assignmentId);
  return (
    <div className="screen">
      <Masthead help="staff" title={map.data?.assignment.title ?? ""} course={map.data?.assignment.course} />
      <main>
        <h1>Question map</h1>
        <MapSection assignmentId={assignmentId} />
        <p>
          <Link to={`/setting-up/${assignmentId}`}>All of setting up</Link> · <Link to={`/reading/${assignmentId}`}>All folios</Link>
        </p>
      </main>
    </div>
  );
}
