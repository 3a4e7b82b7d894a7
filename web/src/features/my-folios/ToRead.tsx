import { Link } from "react-router";
import type { Schemas } from "../../shared/api/client";
import { dayAndTime } from "../../shared/time";
import { count } from "../../shared/words";

/** What a marker was given to read. */
export function ToRead({ work }: { work: Schemas["ToReadOut"][] }) {
  return (
    <section aria-labelledby="to-read" className="teaching">
      <h1 id="to-read">What you read as a marker</h1>
      <ul>
        {work.map((one) => (
          <li key={one.assignment.id}>
            <h3>
              <Link to={`/reading/${one.assignment.id}`}>{one.assignment.title}</Link>
            </h3>
            <span className="soft">
              {one.assignment.course} · due {dayAndTime(one.due, one.assignment.time_zone)}
            </span>
            <span className="teaching-doors">
              <Link to={`/marking/${one.assignment.id}`}>
                Mark<span className="unseen"> {one.assignment.title}</span>
              </Link>
            </span>
            <span>
              <strong>{count(one.handed_in, "folio")}</strong> handed in
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
