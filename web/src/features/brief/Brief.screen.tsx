import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Table } from "../../shared/ui/Table";
import { useNavigate, useParams } from "react-router";
import { Button, LinkButton } from "../../shared/ui/Button";
import { choiceWords } from "../../folio/arrangement";
import { onScreen, takesPages } from "../../folio/answers/content";
import { Prose } from "../../folio/Prose";
import { isOneClock } from "../../folio/sitting";
import { answer, api, type Schemas } from "../../shared/api/client";
import { AskOnce } from "../../shared/ui/AskOnce";
import { Masthead } from "../../shared/ui/Masthead";
import { clockTime, correctClock, dayAndTime, useNow } from "../../shared/time";
import { PaperDoor } from "../../folio/PaperDoor";
import { AnswerPaper } from "../../folio/AnswerPaper";
import { PaperRules } from "../../folio/PaperRules";
import { TimeRail } from "../../folio/TimeRail";
import { Trouble } from "../../shared/ui/Trouble";
import { count, size } from "../../shared/words";
import "./Brief.css";
import { GetReady } from "./GetReady";
import { queryKeys } from "../../shared/queryKeys";

type BriefData = Schemas["BriefOut"];

const KIND_WORDS = {
  pictures: "Pages are photographs or other pictures here; a PDF is not taken.",
  pdf: "Pages come as PDF here; a photograph is not taken.",
};

export default function Brief() {
  const assignmentId = Number(useParams().assignmentId);
  const brief = useQuery({
    queryKey: queryKeys.brief(assignmentId),
    queryFn: async () => {
      const path = { assignment_id: assignmentId };
      const data = await answer(api.GET("/api/assignments/{assignment_id}/brief", { params: { path } }));
      correctClock(data.now);
      return data;
    },
    refetchInterval: 30_000,
  });
  const title = brief.data?.assignment;
  return (
    <div className="screen">
      <Masthead help="brief" title={title?.title ?? ""} course={title?.course} />
      {brief.data?.folio_id && <TimeRail sitting={{ ...brief.data, rehearsal: brief.data.is_rehearsal }} safe="" />}
      <main>
        {brief.isError && <Trouble error={brief.error} onRetry={() => void brief.refetch()} />}
        {brief.data && <BriefSheet brief={brief.data} />}
      </main>
    </div>
  );
}

function BriefSheet({ brief }: { brief: BriefData }) {
  return (
    <div className="brief">
      <div>
        <h1>{brief.assignment.title}</h1>
        <p className="soft">
          {brief.assignment.course} {brief.assignment.course_title}
          {brief.given_out && ` · ${count(brief.questions.length, "part")}, ${brief.points} points`}
        </p>
        {brief.instructions_before && <Prose text={brief.instructions_before} />}
        {brief.instructions && <Prose text={brief.instructions} />}
        <PaperDownload brief={brief} />
        {brief.files.length > 0 && (
          <p>
            Beside it:{" "}
            {brief.files.map((one, at) => (
              <span key={one.id}>
                {at > 0 && " · "}
                <a href={`/api/assignments/${brief.assignment.id}/files/${one.id}`} download>
                  {one.name}
                </a>{" "}
                <span className="soft">{size(one.size)}</span>
              </span>
            ))}
          </p>
        )}
        {brief.is_student && !brief.is_rehearsal && brief.folio_id === null && <GetReady brief={brief} />}
        <PaperRules rules={brief.paper_rules} />
        {!brief.is_rehearsal && <AnswerPaper assignmentId={brief.assignment.id} named={brief.is_student} />}
        {brief.page_kinds !== "any" && <p>{KIND_WORDS[brief.page_kinds]}</p>}
        {brief.honour && (
          <section>
            <h2>By handing in you confirm</h2>
            <blockquote className="brief-honour">{brief.honour}</blockquote>
          </section>
        )}
        {brief.given_out && <QuestionMap questions={brief.questions} />}
      </div>
      <aside>
        <TimePlan brief={brief} />
        <Beginning brief={brief} />
        {brief.rehearsal && <Rehearsing brief={brief} />}
      </aside>
    </div>
  );
}

function PaperDownload({ brief }: { brief: BriefData }) {
  if (brief.has_paper)
    return (
      <p>
        <PaperDoor assignmentId={brief.assignment.id} /> ·{" "}
        <a href={`/api/assignments/${brief.assignment.id}/question-paper`} download>
          Download it (PDF)
        </a>
      </p>
    );
  if (brief.window.timed && brief.folio_id === null)
    return <p className="soft">The questions, and the question paper, are given out when you begin.</p>;
  return null;
}

function QuestionMap({ questions }: { questions: Schemas["QuestionOut"][] }) {
  return (
    <section>
      <h2>Question map</h2>
      <Table
        className="question-map"
        size="small"
        rowKey="id"
        pagination={false}
        dataSource={questions}
        rowClassName={(one, row) => (questions[row - 1]?.question === one.question ? "" : "question-first")}
        columns={[
          { title: "Label", dataIndex: "label", width: 64, onCell: () => ({ scope: "row" }) },
          {
            title: "What is asked",
            render: (_, one) => {
              const screen = onScreen(one).length > 0 && (takesPages(one) ? "on the screen and on paper" : "on the screen");
              const more = [choiceWords(one, questions), screen].filter(Boolean).join(" · ");
              return (
                <>
                  {one.title}
                  {more && <span className="soft"> {one.title && "· "}{more}</span>}
                </>
              );
            },
          },
          { title: "Points", dataIndex: "points", align: "right", width: 76 },
        ]}
      />
    </section>
  );
}

function TimePlan({ brief }: { brief: BriefData }) {
  const now = useNow(15_000);
  const { window, beginning_now: plan, assignment } = brief;
  const zone = assignment.time_zone;
  const rows: [string, string][] = [];
  if (now < Date.parse(window.opens)) rows.push(["Opens", dayAndTime(window.opens, zone)]);
  if (window.writing_ends && window.handover_ends) {
    rows.push([isOneClock(window) ? "Writing and sending until" : "Writing until", clockTime(window.writing_ends, zone)]);
    if (!isOneClock(window)) rows.push(["Handover until", clockTime(window.handover_ends, zone)]);
  } else if (plan.writing_ends && plan.handover_ends && (plan.phase === "writing" || plan.phase === "handover")) {
    rows.push([isOneClock(plan) ? "Begin now: writing and sending until" : "Begin now: writing until", clockTime(plan.writing_ends, zone)]);
    if (!isOneClock(plan)) rows.push(["Handover until", clockTime(plan.handover_ends, zone)]);
    if (window.latest_full_begin) rows.push(["Full time if begun by", dayAndTime(window.latest_full_begin, zone)]);
  }
  rows.push(["Due", dayAndTime(window.due, zone)]);
  if (window.late_until) rows.push(["Late work until", dayAndTime(window.late_until, zone)]);
  return (
    <section>
      <h2>Your time</h2>
      <dl className="time-plan">
        {rows.map(([term, moment]) => (
          <div key={term}>
            <dt>{term}</dt>
            <dd>{moment}</dd>
          </div>
        ))}
      </dl>
      {brief.extra_time && window.timed && <p className="soft">Your extra time, {brief.extra_time} on writing, is worked in.</p>}
      {window.timed && <p className="soft">The clock runs on whether or not this page is open.</p>}
    </section>
  );
}

function Beginning({ brief }: { brief: BriefData }) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [asking, setAsking] = useState(false);
  const begin = useMutation({
    mutationFn: () => {
      const path = { assignment_id: brief.assignment.id };
      return answer(api.POST("/api/assignments/{assignment_id}/begin", { params: { path } }));
    },
    onSuccess: async (begun) => {
      await queries.invalidateQueries({ queryKey: queryKeys.myFolios });
      queries.setQueryData(queryKeys.brief(brief.assignment.id), begun);
      if (begun.folio_id !== null) await navigate(`/folios/${begun.folio_id}`);
    },
  });
  if (brief.folio_id !== null)
    return (
      <LinkButton first to={`/folios/${brief.folio_id}`}>
        Open the board
      </LinkButton>
    );
  const mayBegin = !["not_open", "placing", "closed"].includes(brief.window.phase);
  if (!mayBegin)
    return <p>{brief.window.phase === "not_open" ? "This has not opened yet." : "This is closed."}</p>;
  const ask = () => (brief.window.timed ? setAsking(true) : begin.mutate());
  return (
    <>
      {begin.error && <Trouble error={begin.error} />}
      <Button first onClick={ask} busy={begin.isPending}>
        {brief.window.timed ? "Begin" : "Begin and open the board"}
      </Button>
      {asking && (
        <AskOnce
          title="Begin now?"
          no="Not yet"
          yes="Begin now"
          onNo={() => setAsking(false)}
          onYes={() => {
            setAsking(false);
            begin.mutate();
          }}
        >
          Your time starts at once and cannot be stopped. <BeginningNow brief={brief} />
        </AskOnce>
      )}
    </>
  );
}

/** A sitting that counts for nothing: to know the way before it matters. */
function Rehearsing({ brief }: { brief: BriefData }) {
  const navigate = useNavigate();
  const rehearse = useMutation({
    mutationFn: () => {
      const path = { assignment_id: brief.assignment.id };
      return answer(api.POST("/api/assignments/{assignment_id}/rehearse", { params: { path } }));
    },
    onSuccess: ({ folio_id }) => navigate(`/folios/${folio_id}`),
  });
  return (
    <section className="rehearsing">
      <h2>{brief.is_student ? "Rehearse" : "See it as a student"}</h2>
      <p className="soft">
        {brief.is_student
          ? "The same clock and the same screens with a small question paper of its own. It counts for nothing and can be repeated; at its end you see what took how long."
          : "The same clock and the same screens, with a small question paper of its own, to the receipt and on to how it is read. It counts for nothing and is in no list."}
      </p>
      {brief.rehearsal_asked && (
        <p>
          <strong>Your instructor asks everybody to rehearse once</strong>, so that nothing is new when it counts.
        </p>
      )}
      {rehearse.error && <Trouble error={rehearse.error} />}
      <Button first={brief.rehearsal_asked} onClick={() => rehearse.mutate()} busy={rehearse.isPending}>
        Rehearse now
      </Button>
    </section>
  );
}

function BeginningNow({ brief }: { brief: BriefData }) {
  const now = useNow(15_000);
  const { writing_ends: writing, handover_ends: handover } = brief.beginning_now;
  const latest = brief.window.latest_full_begin;
  if (!writing || !handover) return null;
  const zone = brief.assignment.time_zone;
  return (
    <>
      {isOneClock(brief.beginning_now) ? "Writing and sending" : "Writing"} would end at about{" "}
      <strong>{clockTime(writing, zone)}</strong>
      {!isOneClock(brief.beginning_now) && (
        <>
          , handover at <strong>{clockTime(handover, zone)}</strong>
        </>
      )}
      .
      {latest && now > Date.parse(latest) && (
        <strong className="red"> That is less than your full time: the due moment ends the sitting.</strong>
      )}
    </>
  );
}
