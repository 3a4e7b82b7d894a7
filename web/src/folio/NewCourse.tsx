import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { answer, api } from "../shared/api/client";
import { queryKeys } from "../shared/queryKeys";
import { Button } from "../shared/ui/Button";
import { later, lazily } from "../shared/ui/later";
import type { Facts } from "./CourseForm";

const CourseForm = lazily(async () => (await import("./CourseForm")).CourseForm);
const Dialog = later("Dialog");

/** Begins a course and goes on to its people. In a department it is begun for others to teach. */
export function NewCourse({ departmentId = null }: { departmentId?: number | null }) {
  const [open, setOpen] = useState(false);
  const go = useNavigate();
  const queries = useQueryClient();
  const begin = useMutation({
    mutationFn: (facts: Facts) => answer(api.POST("/api/courses", { body: { ...facts, department_id: departmentId } })),
    onSuccess: ({ id }) => {
      void queries.invalidateQueries({ queryKey: queryKeys.courses });
      if (departmentId !== null) void queries.invalidateQueries({ queryKey: queryKeys.department(departmentId) });
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
