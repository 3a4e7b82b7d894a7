import { useMutation, useQueryClient } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { CourseForm, type Facts } from "../../folio/CourseForm";

/** What the course says of itself; its contact is whom students ask for help. */
export function CourseFacts({ course }: { course: Schemas["CourseOut"] }) {
  const queries = useQueryClient();
  const save = useMutation({
    mutationFn: (facts: Facts) => {
      const body = { ...facts, version: course.version };
      return answer(api.PUT("/api/courses/{course_id}", { params: { path: { course_id: course.id } }, body }));
    },
    onSuccess: (now) => queries.setQueryData(queryKeys.course(course.id), now),
  });
  return <CourseForm facts={course} words="Save it" saving={save} />;
}
