import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Checkbox } from "antd";
import { useState } from "react";
import { answer, api, type Schemas } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { dayAndTime } from "../../shared/time";
import { Button } from "../../shared/ui/Button";
import { QrCode } from "../../shared/ui/QrCode";
import { Trouble } from "../../shared/ui/Trouble";
import { count } from "../../shared/words";

/** A short code to write on a board; a new one ends the one before. */
export function Joining({ course }: { course: Schemas["CourseOut"] }) {
  const queries = useQueryClient();
  const params = { path: { course_id: course.id } };
  const onSettled = () => queries.invalidateQueries({ queryKey: queryKeys.course(course.id) });
  const [asks, setAsks] = useState(course.join?.asks ?? false);
  const make = useMutation({ mutationFn: () => answer(api.POST("/api/courses/{course_id}/join-code", { params, body: { asks } })), onSettled });
  const end = useMutation({ mutationFn: () => answer(api.DELETE("/api/courses/{course_id}/join-code", { params })), onSettled });
  const error = make.error ?? end.error;
  const asking = (
    <p>
      <Checkbox checked={asks} onChange={(event) => setAsks(event.target.checked)}>
        Who joins by a new code waits until you let them in
      </Checkbox>
    </p>
  );
  return (
    <div className="course-join">
      {course.waiting.length > 0 && <Waiting course={course} />}
      {error && <Trouble error={error} />}
      {course.join ? (
        <>
          <div className="course-join-code">
            <QrCode modules={course.join.modules} label={`Address to join ${course.code}`} />
          </div>
          <div>
            <p className="course-code">{course.join.code}</p>
            <p>
              Whoever has an account here and opens <strong>{course.join.address}</strong> sees whose course it is and{" "}
              {course.join.asks ? "asks to join it" : "joins it"} as a student, until {dayAndTime(course.join.until, course.time_zone)}.
            </p>
            {asking}
            <p className="course-doors">
              <Button busy={make.isPending} onClick={() => make.mutate()}>
                Make a new code; this one ends
              </Button>
              <button type="button" className="plain" disabled={end.isPending} onClick={() => end.mutate()}>
                End it: nobody joins by code
              </button>
            </p>
          </div>
        </>
      ) : (
        <div>
          <p>Nobody can join by a code now. A code lasts four weeks, and has no letters that are taken for each other.</p>
          {asking}
          <Button busy={make.isPending} onClick={() => make.mutate()}>
            Make a code
          </Button>
        </div>
      )}
    </div>
  );
}

/** Who has joined by a code of a course that asks. */
function Waiting({ course }: { course: Schemas["CourseOut"] }) {
  const queries = useQueryClient();
  const decide = useMutation({
    mutationFn: ({ id, letIn }: { id: number; letIn: boolean }) =>
      answer(
        api.POST("/api/courses/{course_id}/join-requests/{request_id}", {
          params: { path: { course_id: course.id, request_id: id } },
          body: { let_in: letIn },
        }),
      ),
    onSuccess: (now) => {
      queries.setQueryData(queryKeys.course(course.id), now);
      void queries.invalidateQueries({ queryKey: queryKeys.people(course.id) });
    },
  });
  return (
    <section className="course-waiting" aria-labelledby="waiting">
      <h2 id="waiting">{count(course.waiting.length, "person", "people")} wait to be let in</h2>
      <ul>
        {course.waiting.map((one) => (
          <li key={one.id}>
            <strong>{one.name}</strong>{" "}
            <span className="soft">
              {[one.number && `no. ${one.number}`, one.email, dayAndTime(one.asked_at, course.time_zone)].filter(Boolean).join(" · ")}
            </span>
            <span className="course-doors">
              <Button small first disabled={decide.isPending} onClick={() => decide.mutate({ id: one.id, letIn: true })}>
                Let in<span className="unseen"> {one.name}</span>
              </Button>
              <button type="button" className="plain" disabled={decide.isPending} onClick={() => decide.mutate({ id: one.id, letIn: false })}>
                Turn away<span className="unseen"> {one.name}</span>
              </button>
            </span>
          </li>
        ))}
      </ul>
      {decide.error && <Trouble error={decide.error} />}
    </section>
  );
}
