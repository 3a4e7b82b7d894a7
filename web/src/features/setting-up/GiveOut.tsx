import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { Moment } from "../../folio/Moment";
import { answer, api, type Schemas } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { dayAndTime, serverNow } from "../../shared/time";
import { AskOnce } from "../../shared/ui/AskOnce";
import { Button, LinkButton } from "../../shared/ui/Button";
import { Trouble } from "../../shared/ui/Trouble";
import { count } from "../../shared/words";

type Work = Schemas["SettingUpOut"];

/** From a draft to what students see, and back while nobody has begun. */
export function GiveOut({ work }: { work: Work }) {
  const queries = useQueryClient();
  const go = useNavigate();
  const [asking, setAsking] = useState<"give" | "discard" | null>(null);
  /** When to give it out, in the course's zone; null is at once. */
  const [at, setAt] = useState<string | null>(null);
  const id = work.assignment.id;
  const zone = work.assignment.time_zone;
  const params = { path: { assignment_id: id } };
  const onSuccess = (now: Work) => {
    queries.setQueryData(queryKeys.settingUp(id), now);
    void queries.invalidateQueries({ queryKey: queryKeys.course(work.course_id) });
  };
  const give = useMutation({
    mutationFn: (at: string | null) => answer(api.POST("/api/assignments/{assignment_id}/give-out", { params, body: { at } })),
    onSuccess,
  });
  const back = useMutation({ mutationFn: () => answer(api.POST("/api/assignments/{assignment_id}/take-back", { params })), onSuccess });
  const discard = useMutation({
    mutationFn: () => answer(api.DELETE("/api/assignments/{assignment_id}", { params })),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: queryKeys.course(work.course_id) });
      void go(`/courses/${work.course_id}`);
    },
  });
  const error = give.error ?? back.error ?? discard.error;
  const opensLater = Date.parse(work.opens_at) > serverNow();
  return (
    <footer className="setting-up-foot">
      {work.given_out_at === null ? (
        <button type="button" className="plain" onClick={() => setAsking("discard")}>
          Discard this draft
        </button>
      ) : (
        <>
          <Link to={`/sittings/${id}`}>As it happens</Link>
          {work.begun === 0 && (
            <button type="button" className="plain" disabled={back.isPending} onClick={() => back.mutate()}>
              Take it back: a draft again
            </button>
          )}
        </>
      )}
      {error && <Trouble error={error} />}
      <Link to={`/assignments/${id}`}>See it as a student</Link>
      <span className="setting-up-gap" />
      <span className="soft">
        {work.students === 0 ? (
          <>
            Nobody is on the roster yet: <Link to={`/courses/${work.course_id}?tab=people`}>take one in</Link>
          </>
        ) : (
          `${count(work.students, "student")} on the roster`
        )}
      </span>
      {work.given_out_at === null ? (
        <Button first busy={give.isPending} disabled={!work.whole_work && work.map === ""} onClick={() => setAsking("give")}>
          Give it out
        </Button>
      ) : (
        <LinkButton to={`/reading/${id}`}>Folios</LinkButton>
      )}
      {asking === "give" && (
        <AskOnce
          title={`Give out ${work.title}?`}
          no="Not yet"
          yes={at === null ? "Give it out now" : "Give it out then"}
          onNo={() => setAsking(null)}
          onYes={() => {
            setAsking(null);
            give.mutate(at);
          }}
        >
          <p>
            <label htmlFor="give-out-at">Not now, but at</label> <Moment id="give-out-at" value={at} clear onChange={setAt} />
          </p>
          <p>
            {count(work.students, "student")} see it {at === null ? "from now on" : "from then on"}: title and times at once
            {opensLater ? `, and what is asked from ${dayAndTime(work.opens_at, zone)}` : ", and it is open"}
            {work.writing_minutes !== null && ", each when they begin"}.
          </p>
          {work.odd.map((one) => (
            <p key={one.words}>
              <strong className="red">Look again:</strong> {one.words}
            </p>
          ))}
          <p className="soft">It can be taken back while nobody has begun.</p>
        </AskOnce>
      )}
      {asking === "discard" && (
        <AskOnce
          title={`Discard ${work.title}?`}
          no="Keep it"
          yes="Discard"
          onNo={() => setAsking(null)}
          onYes={() => {
            setAsking(null);
            discard.mutate();
          }}
        >
          The draft, its map and its paper go. No student has seen it.
        </AskOnce>
      )}
    </footer>
  );
}
