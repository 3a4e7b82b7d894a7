import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useParams } from "react-router";
import { answer, api } from "../../shared/api/client";
import { useSignedIn } from "../../shared/me";
import { queryKeys } from "../../shared/queryKeys";
import { Button, LinkButton } from "../../shared/ui/Button";
import { Masthead } from "../../shared/ui/Masthead";
import { Trouble } from "../../shared/ui/Trouble";
import { list } from "../../shared/words";

/** Joining a course by its code: which course, whose, and as whom, before anything is done. */
export default function Join() {
  const code = useParams().code ?? "";
  const me = useSignedIn();
  const queries = useQueryClient();
  const params = { path: { code } };
  const course = useQuery({
    queryKey: queryKeys.join(code),
    queryFn: () => answer(api.GET("/api/join/{code}", { params })),
  });
  const join = useMutation({
    mutationFn: () => answer(api.POST("/api/join/{code}", { params })),
    onSuccess: (now) => {
      queries.setQueryData(queryKeys.join(code), now);
      void queries.invalidateQueries({ queryKey: queryKeys.myFolios });
    },
  });
  const data = course.data;
  return (
    <div className="screen">
      <Masthead help="join" title="Joining a course" />
      <main>
        {course.isError && <Trouble error={course.error} onRetry={() => void course.refetch()} />}
        {data && (
          <>
            <h1>
              {data.code} {data.title}
            </h1>
            <p className="soft">{[data.instructors.length > 0 && `with ${list(data.instructors)}`, data.term].filter(Boolean).join(" · ")}</p>
            {data.role ? (
              <p role="status">
                You are in this course{data.role === "student" ? "" : ` as ${data.role}`}.{" "}
                <LinkButton first to="/">
                  My folios
                </LinkButton>
              </p>
            ) : data.waits ? (
              <p role="status">You have asked to join as {me.name}. An instructor lets you in; then the course is among your folios.</p>
            ) : (
              <>
                <p>
                  You join as <strong>{me.name}</strong>
                  {me.number && `, no. ${me.number}`} · {me.email}. If that is not you, sign out above and open this address again.
                </p>
                <p>
                  <Button first busy={join.isPending} onClick={() => join.mutate()}>
                    {data.asks ? "Ask to join" : "Join"} {data.code} as {me.name}
                  </Button>
                </p>
              </>
            )}
            {join.error && <Trouble error={join.error} />}
          </>
        )}
      </main>
    </div>
  );
}
