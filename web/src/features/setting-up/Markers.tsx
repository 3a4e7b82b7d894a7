import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Select, Switch } from "antd";
import { Link } from "react-router";
import { answer, api, type Schemas } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { Trouble } from "../../shared/ui/Trouble";
import "./Markers.css";

type Marker = Schemas["MarkerOut"];
type Choices = Omit<Schemas["MarkersOut"], "markers">;
type Narrowing = "questions" | "sections" | "students";

/** Which of the course's markers reads what of the assignment. Saved as it is chosen. */
export function Markers({ assignmentId, courseId }: { assignmentId: number; courseId: number }) {
  const queries = useQueryClient();
  const path = { assignment_id: assignmentId };
  const markers = useQuery({
    queryKey: queryKeys.markers(assignmentId),
    queryFn: () => answer(api.GET("/api/assignments/{assignment_id}/markers", { params: { path } })),
  });
  const give = useMutation({
    scope: { id: `markers of ${assignmentId}` }, // one after another, as they were chosen
    mutationFn: ({ line_id, ...body }: Marker) =>
      answer(api.PUT("/api/assignments/{assignment_id}/markers/{line_id}", { params: { path: { ...path, line_id } }, body })),
    onMutate: (wanted) =>
      queries.setQueryData<Schemas["MarkersOut"]>(queryKeys.markers(assignmentId), (now) =>
        now && { ...now, markers: now.markers.map((one) => (one.line_id === wanted.line_id ? wanted : one)) },
      ),
    onError: () => queries.invalidateQueries({ queryKey: queryKeys.markers(assignmentId) }),
  });
  if (markers.isError) return <Trouble error={markers.error} onRetry={() => void markers.refetch()} />;
  if (!markers.data) return null;
  const { markers: people, ...choices } = markers.data;
  return (
    <section className="markers" aria-labelledby="markers">
      <h2 id="markers">Who reads it</h2>
      <p className="soft">
        Its instructors read all of it.
        {people.length === 0 && (
          <>
            {" "}
            To share the reading, give somebody the role marker on <Link to={`/courses/${courseId}`}>the roster</Link>.
          </>
        )}
      </p>
      {give.error && <Trouble error={give.error} />}
      {people.map((one) => (
        <Share key={one.line_id} marker={one} choices={choices} onChange={(wanted) => give.mutate({ ...one, ...wanted })} />
      ))}
    </section>
  );
}

interface ShareProps {
  marker: Marker;
  choices: Choices;
  onChange: (wanted: Partial<Marker>) => void;
}

function Share({ marker, choices, onChange }: ShareProps) {
  const choose = (name: Narrowing, all: string) =>
    choices[name].length > 0 && (
      <Select
        mode="multiple"
        aria-label={`${name} that ${marker.name} reads`}
        placeholder={all}
        optionFilterProp="label"
        maxTagCount="responsive"
        value={marker[name] ?? []}
        options={choices[name].map((one) => ({ value: one.id, label: one.name }))}
        onChange={(ids: number[]) => onChange({ [name]: ids })}
      />
    );
  return (
    <div className="marker">
      <p>
        <Switch id={`marker-${marker.line_id}`} checked={marker.reads} onChange={(reads) => onChange({ reads })} />{" "}
        <label htmlFor={`marker-${marker.line_id}`}>
          {marker.name} <span className="soft">{marker.email}</span>
        </label>
      </p>
      {marker.reads && (
        <div className="marker-share">
          {choose("questions", "every question")}
          {choose("sections", "every section")}
          {choose("students", marker.sections?.length ? "and no student besides" : "every student")}
        </div>
      )}
    </div>
  );
}
