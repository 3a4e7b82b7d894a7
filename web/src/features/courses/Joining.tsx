import { useMutation, useQueryClient } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { dayAndTime } from "../../shared/time";
import { Button } from "../../shared/ui/Button";
import { QrCode } from "../../shared/ui/QrCode";
import { Trouble } from "../../shared/ui/Trouble";

/** A short code to write on a board; a new one ends the one before. */
export function Joining({ course }: { course: Schemas["CourseOut"] }) {
  const queries = useQueryClient();
  const params = { path: { course_id: course.id } };
  const onSettled = () => queries.invalidateQueries({ queryKey: queryKeys.course(course.id) });
  const make = useMutation({ mutationFn: () => answer(api.POST("/api/courses/{course_id}/join-code", { params })), onSettled });
  const end = useMutation({ mutationFn: () => answer(api.DELETE("/api/courses/{course_id}/join-code", { params })), onSettled });
  const error = make.error ?? end.error;
  return (
    <div className="course-join">
      {error && <Trouble error={error} />}
      {course.join ? (
        <>
          <div className="course-join-code">
            <QrCode modules={course.join.modules} label={`Address to join ${course.code}`} />
          </div>
          <div>
            <p className="course-code">{course.join.code}</p>
            <p>
              Whoever has an account here and opens <strong>{course.join.address}</strong> sees whose course it is and joins it as
              a student, until {dayAndTime(course.join.until, course.time_zone)}.
            </p>
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
          <Button busy={make.isPending} onClick={() => make.mutate()}>
            Make a code
          </Button>
        </div>
      )}
    </div>
  );
}
