import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { NewCourse } from "../../folio/NewCourse";
import { answer, api, type Schemas } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { dayAndTime, serverNow } from "../../shared/time";
import { LinkButton } from "../../shared/ui/Button";
import { count } from "../../shared/words";

type Taught = Schemas["TaughtOut"];

export function useCourses(teaches: boolean) {
  return useQuery({ queryKey: queryKeys.courses, enabled: teaches, queryFn: () => answer(api.GET("/api/courses")) });
}

/** One's own work as somebody who teaches: what runs, what is to be read, what comes, what is a draft; and the courses. */
export function Teaching({ teaching, courses }: { teaching: Taught[]; courses: Schemas["MyCoursesOut"] | undefined }) {
  const now = serverNow();
  const isDraft = (one: Taught) => one.given_out_at === null;
  const isOpen = (one: Taught) => !isDraft(one) && Date.parse(one.opens) <= now && now < Date.parse(one.due);
  const groups: [string, Taught[]][] = [
    ["Open now", teaching.filter(isOpen)],
    ["To read", teaching.filter((one) => !isDraft(one) && Date.parse(one.due) <= now)],
    ["Opens later", teaching.filter((one) => !isDraft(one) && Date.parse(one.opens) > now)],
    ["Drafts, seen by nobody", teaching.filter(isDraft)],
  ];
  return (
    <section aria-labelledby="teaching" className="teaching">
      <h1 id="teaching">{teaching.length === 0 && courses?.departments.length ? "What you administer" : "What you teach"}</h1>
      <p className="teaching-courses">
        {courses?.courses.map((one) => (
          <LinkButton key={one.id} to={`/courses/${one.id}`}>
            {one.code} <span className="soft">{count(one.students, "student")}</span>
          </LinkButton>
        ))}
        {courses?.departments.map((one) => (
          <LinkButton key={one.id} to={`/departments/${one.id}`}>
            {one.code} <span className="soft">department</span>
          </LinkButton>
        ))}
        {courses?.may_begin && <NewCourse />}
      </p>
      {groups.map(([title, work]) => work.length > 0 && <Group key={title} title={title} work={work} />)}
    </section>
  );
}

function Group({ title, work }: { title: string; work: Taught[] }) {
  return (
    <>
      <h2>{title}</h2>
      <ul>
        {work.map((one) => (
          <li key={one.assignment.id}>
            <h3>
              <Link to={one.given_out_at === null ? `/setting-up/${one.assignment.id}` : `/reading/${one.assignment.id}`}>{one.assignment.title}</Link>
            </h3>
            <span className="soft">
              {one.assignment.course} · due {dayAndTime(one.due, one.assignment.time_zone)}
            </span>
            {one.given_out_at !== null && (
              <span>
                <strong>{one.handed_in}</strong> of {count(one.students, "student")} handed in
              </span>
            )}
            <span className="teaching-doors">
              {one.handed_in > 0 && (
                <Link to={`/marking/${one.assignment.id}`}>
                  Mark<span className="unseen"> {one.assignment.title}</span>
                </Link>
              )}
              {one.given_out_at !== null && <Link to={`/sittings/${one.assignment.id}`}>As it happens</Link>}
              <Link to={`/setting-up/${one.assignment.id}`}>
                Setting up<span className="unseen"> {one.assignment.title}</span>
              </Link>
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}
