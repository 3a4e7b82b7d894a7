import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { answer, api, type Schemas } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { useFolioList } from "../../folio/useFolioList";
import { useGivingTime } from "../../folio/useGivingTime";
import { Masthead } from "../../shared/ui/Masthead";
import { dayAndTime, lengthOfTime } from "../../shared/time";
import { lazily } from "../../shared/ui/later";
import { Table } from "../../shared/ui/Table";
import { LinkButton } from "../../shared/ui/Button";
import { Trouble } from "../../shared/ui/Trouble";
import { count } from "../../shared/words";
import { GiveTime } from "./GiveTime";
import { Narrowing } from "./Narrowing";
import { found, KINDS, readShown, writeShown } from "./shown";
import { TakeAway } from "./TakeAway";
import "./FolioList.css";

type Line = Schemas["FolioLine"];
const PAGE_ROWS = 50;
const TakeIn = lazily(async () => (await import("./TakeIn")).TakeIn, "where shown");

/** The instructor's list: every student of the course, who has handed in and what is open. */
export default function FolioList() {
  const assignmentId = Number(useParams().assignmentId);
  const folios = useFolioList(assignmentId);
  const [search, setSearch] = useSearchParams();
  const shown = readShown(search);
  const data = folios.data;
  return (
    <div className="screen">
      <Masthead help="staff" title={data?.assignment.title ?? ""} course={data?.assignment.course} />
      <main>
        {folios.isError && <Trouble error={folios.error} onRetry={() => void folios.refetch()} />}
        {data && (
          <>
            <h1>
              {data.instructs
                ? `${data.folios.filter((one) => one.edition !== null).length} of ${count(data.folios.length, "student")} handed in`
                : `${count(data.folios.length, "folio")} to read`}
            </h1>
            <p className="soft">
              {data.questions && <strong>You read {data.questions.join(", ")} · </strong>}
              Due {dayAndTime(data.due, data.assignment.time_zone)}
              {data.instructs && (
                <>
                  {" "}
                  · <Link to={`/question-maps/${assignmentId}`}>Question map</Link> · <Link to={`/giving-back/${assignmentId}`}>Give back</Link>
                </>
              )}
            </p>
            {data.folios.some((one) => one.edition !== null) && (
              <p>
                <LinkButton first to={`/marking/${assignmentId}`}>
                  Mark
                </LinkButton>
              </p>
            )}
            <HeldUp assignmentId={assignmentId} people={data.held_up} />
            {data.instructs && data.assignment.writing_minutes !== null && <GiveTime assignmentId={assignmentId} running={data.running} />}
            {data.instructs && <TakeAway assignmentId={assignmentId} handedIn={data.folios.filter((one) => one.edition !== null).length} />}
            <Narrowing lines={data.folios} shown={shown} instructs={data.instructs} onChange={(next) => setSearch(writeShown(next), { replace: true })} />
            <Lines
              asksRehearsal={data.asks_rehearsal}
              instructs={data.instructs}
              lines={found(data.folios, shown).filter(KINDS[shown.kind].holds)}
              assignmentId={assignmentId}
              zone={data.assignment.time_zone}
              timed={data.assignment.writing_minutes !== null}
            />
          </>
        )}
      </main>
    </div>
  );
}

/** Whose sign-in must wait because of wrong passwords, their own or somebody else's. */
function HeldUp({ assignmentId, people }: { assignmentId: number; people: Schemas["HeldUp"][] }) {
  const queries = useQueryClient();
  const letIn = useMutation({
    mutationFn: (person_id: number) =>
      answer(
        api.POST("/api/assignments/{assignment_id}/people/{person_id}/let-in", {
          params: { path: { assignment_id: assignmentId, person_id } },
        }),
      ),
    onSettled: () => queries.invalidateQueries({ queryKey: queryKeys.folioList(assignmentId) }),
  });
  if (people.length === 0) return null;
  return (
    <ul className="held-up" aria-label="Sign-ins that must wait">
      {people.map((one) => (
        <li key={one.person_id}>
          <span className="red">
            Wrong passwords for {one.student} ({count(one.tries, "time")} in the last hour): signing in from a new device must wait.
          </span>{" "}
          <button type="button" className="plain" disabled={letIn.isPending} onClick={() => letIn.mutate(one.person_id)}>
            Let {one.student} in now
          </button>
        </li>
      ))}
    </ul>
  );
}

interface LinesProps {
  lines: Line[];
  assignmentId: number;
  zone: string;
  timed: boolean;
  asksRehearsal: boolean;
  instructs: boolean;
}

function Lines({ lines, assignmentId, zone, timed, asksRehearsal, instructs }: LinesProps) {
  return (
    <Table
      className="folio-list"
      size="small"
      rowKey="email"
      pagination={lines.length > PAGE_ROWS ? { pageSize: PAGE_ROWS, showSizeChanger: false, placement: ["bottomStart"] } : false}
      dataSource={lines}
      locale={{ emptyText: "Nobody here fits. Choose All, or clear the search." }}
      columns={[
        {
          title: "Student",
          sorter: (a, b) => a.student.localeCompare(b.student),
          render: (_, one) =>
            one.folio_id !== null && one.edition !== null ? (
              <Link to={`/reading/${assignmentId}/${one.folio_id}/${one.edition}`}>{one.student}</Link>
            ) : (
              one.student
            ),
        },
        ...(lines.some((one) => one.section) ? [{ title: "Section", dataIndex: "section", sorter: (a: Line, b: Line) => a.section.localeCompare(b.section) }] : []),
        { title: "Number", dataIndex: "number", sorter: (a, b) => a.number.localeCompare(b.number) },
        {
          title: "Handed in",
          sorter: (a, b) => (a.handed_in_at ?? "~").localeCompare(b.handed_in_at ?? "~"),
          render: (_, one) => <HandedIn line={one} zone={zone} />,
        },
        { title: "Edition", dataIndex: "edition", align: "right" },
        { title: "Pages", align: "right", render: (_, one) => one.edition !== null && one.pages },
        { title: "Advice", align: "right", sorter: (a, b) => a.advice - b.advice, render: (_, one) => one.advice > 0 && one.advice },
        { title: "Open", render: (_, one) => <OpenQuestions line={one} /> },
        ...(asksRehearsal
          ? [{ title: "Rehearsed", sorter: (a: Line, b: Line) => (a.rehearsed?.at ?? "~").localeCompare(b.rehearsed?.at ?? "~"), render: (_: unknown, one: Line) => <Rehearsed line={one} zone={zone} /> }]
          : []),
        ...(instructs
          ? [
              {
                title: timed ? "Sitting" : "What happened",
                render: (_: unknown, one: Line) => <Sitting line={one} assignmentId={assignmentId} zone={zone} timed={timed} />,
              },
            ]
          : []),
      ]}
    />
  );
}

/** When it was, and the way to what took how long. */
function Rehearsed({ line, zone }: { line: Line; zone: string }) {
  if (!line.rehearsed) return <span className="soft">not yet</span>;
  return <Link to={`/folios/${line.rehearsed.folio_id}/editions/${line.rehearsed.edition}`}>{dayAndTime(line.rehearsed.at, zone)}</Link>;
}

function HandedIn({ line, zone }: { line: Line; zone: string }) {
  if (line.handed_in_at)
    return (
      <>
        {dayAndTime(line.handed_in_at, zone)}
        {line.verdict === "late" && <strong className="red"> late by {lengthOfTime(line.late_seconds * 1000)}</strong>}
        {line.automatic && <span className="soft"> by itself</span>}
        {line.taken_in && <span className="soft"> taken in by staff</span>}
        {line.asked && <strong> asked again</strong>}
        {line.answered && <span className="soft"> sent again</span>}
      </>
    );
  return <span className="soft">{line.begun_at ? `begun ${dayAndTime(line.begun_at, zone)}` : "not begun"}</span>;
}

/** What runs and until when, five more minutes for one, and the record of what happened. */
function Sitting({ line, assignmentId, zone, timed }: Omit<LinesProps, "lines" | "asksRehearsal" | "instructs"> & { line: Line }) {
  const give = useGivingTime(assignmentId);
  const [taking, setTaking] = useState(false);
  const folioId = line.folio_id;
  const runs = timed && (line.phase === "writing" || line.phase === "handover") && folioId !== null;
  return (
    <span className="folio-sitting">
      {runs && line.closes && <span>until {dayAndTime(line.closes, zone)}</span>}
      {runs && (
        <button type="button" className="plain" disabled={give.isPending} onClick={() => give.mutate({ minutes: 5, folioIds: [folioId] })}>
          Give 5 min<span className="unseen"> to {line.student}</span>
        </button>
      )}
      {give.error && (
        <span role="alert" className="red">
          {give.error.message}
        </span>
      )}
      {folioId !== null && (
        <Link to={`/records/${folioId}`}>
          Record<span className="unseen"> of {line.student}</span>
        </Link>
      )}
      {line.on_roster && (
        <button type="button" className="plain" onClick={() => setTaking(true)}>
          Take pages in<span className="unseen"> for {line.student}</span>
        </button>
      )}
      {taking && <TakeIn {...{ assignmentId, zone, line }} onClose={() => setTaking(false)} />}
    </span>
  );
}

function OpenQuestions({ line }: { line: Line }) {
  if (line.edition === null) return null;
  if (line.open_labels.length === 0) return <span className="soft">none</span>;
  return <span className="red">{line.open_labels.join(" ")}</span>;
}
