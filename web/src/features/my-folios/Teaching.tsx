import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import type { Facts } from "../../folio/CourseForm";
import { answer, api, type Schemas } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { dayAndTime, serverNow } from "../../shared/time";
import { Button, LinkButton } from "../../shared/ui/Button";
import { later, lazily } from "../../shared/ui/later";
import { count } from "../../shared/words";

const CourseForm = lazily(async () => (await import("../../folio/CourseForm")).CourseForm);
const Dialog = later("Dialog");
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
      <h1 id="teaching">What you teach</h1>
      <p className="teaching-courses">
        {courses?.courses.map((one) => (
          <LinkButton key={one.id} to={`/courses/${one.id}`}>
            {one.code} <span className="soft">{count(one.students, "student")}</span>
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

function NewCourse() {
  const [open, setOpen] = useState(false);
  const go = useNavigate();
  const queries = useQueryClient();
  const begin = useMutation({
    mutationFn: (facts: Facts) => answer(api.POST("/api/courses", { body: { ...facts, department: "" } })),
    onSuccess: ({ id }) => {
      void queries.invalidateQueries({ queryKey: queryKeys.courses });
      void go(`/courses/${id}?tab=people`);
    },
  });
  return (
    <>
      <Button onClick={() => setOpen(true)}>Begin a course</Button>
      {open && (
        <Dialog title="Begin a course" width={760} onClose={() => setOpen(false)}>
          <CourseForm facts={{}} words="Begin it" saving={begin} />
        </Dialog>
      )}
    </>
  );
}
