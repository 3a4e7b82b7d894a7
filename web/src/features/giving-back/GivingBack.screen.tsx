import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { FilesOfWork } from "../../folio/FilesOfWork";
import { pointsWords } from "../../folio/marked/pointsWords";
import { answer, api, type Schemas } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { dayAndTime } from "../../shared/time";
import { FileButton } from "../../shared/ui/Button";
import { Masthead } from "../../shared/ui/Masthead";
import { Table } from "../../shared/ui/Table";
import { Trouble } from "../../shared/ui/Trouble";
import { count } from "../../shared/words";
import { GiveBack } from "./GiveBack";
import { QuestionFigures } from "./QuestionFigures";
import { TakeBack } from "./TakeBack";
import { findingWords } from "./findingWords";
import "./GivingBack.css";

type Line = Schemas["ToGiveBackOut"];

/** Who gets their marks back, what was forgotten before, and how the questions came out. */
export default function GivingBack() {
  const assignmentId = Number(useParams().assignmentId);
  const queries = useQueryClient();
  const path = { assignment_id: assignmentId };
  const page = useQuery({
    queryKey: queryKeys.givingBack(assignmentId),
    queryFn: () => answer(api.GET("/api/assignments/{assignment_id}/giving-back", { params: { path } })),
  });
  const [chosen, setChosen] = useState<number[]>([]);
  const [takingBack, setTakingBack] = useState<Line | null>(null);
  const onSuccess = (now: Schemas["GivingBackOut"]) => {
    queries.setQueryData(queryKeys.givingBack(assignmentId), now);
    setChosen([]);
    setTakingBack(null);
  };
  const give = useMutation({
    mutationFn: (body: Schemas["GiveBackIn"]) => answer(api.POST("/api/assignments/{assignment_id}/giving-back", { params: { path }, body })),
    onSuccess,
  });
  const takeBack = useMutation({
    mutationFn: ({ folio, why }: { folio: number; why: string }) => answer(api.POST("/api/folios/{folio_id}/giving-back/take-back", { params: { path: { folio_id: folio } }, body: { why } })),
    onSuccess,
  });
  const onChanged = () => void queries.invalidateQueries({ queryKey: queryKeys.givingBack(assignmentId) });
  const data = page.data;
  const base = `/api/assignments/${assignmentId}`;
  return (
    <div className="screen">
      <Masthead help="givingBack" title={data?.assignment.title ?? ""} course={data?.assignment.course} />
      <main>
        {page.isError && <Trouble error={page.error} onRetry={() => void page.refetch()} />}
        {data && (
          <>
            <h1>
              {data.folios.filter((one) => one.given?.is_seen).length} of {count(data.folios.length, "folio")} given back
            </h1>
            <p className="soft">
              <Link to={`/marking/${assignmentId}`}>Go on marking</Link> · <Link to={`/reading/${assignmentId}`}>All folios</Link>
            </p>
            <Table<Line>
              size="small"
              rowKey="folio_id"
              className="giving-back-list"
              pagination={data.folios.length > 50 ? { pageSize: 50, showSizeChanger: false, placement: ["bottomStart"] } : false}
              dataSource={data.folios}
              locale={{ emptyText: "Nothing is handed in yet." }}
              rowSelection={{
                selectedRowKeys: chosen,
                onChange: (keys) => setChosen(keys.map(Number)),
                preserveSelectedRowKeys: true,
                getCheckboxProps: (one) => ({ "aria-label": `Choose ${one.student}` }) as object,
              }}
              columns={[
                {
                  title: "Student",
                  sorter: (a, b) => a.student.localeCompare(b.student),
                  render: (_, one) => <Link to={`/marking/${assignmentId}/${one.folio_id}`}>{one.student}</Link>,
                },
                { title: "Marked", align: "right", sorter: (a, b) => a.marked - b.marked, render: (_, one) => `${one.marked} of ${one.answers}` },
                {
                  title: "Points",
                  align: "right",
                  sorter: (a, b) => Number(a.points) - Number(b.points),
                  render: (_, one) => (
                    <>
                      <strong className="giving-back-points">{pointsWords(one.points)}</strong> <span className="soft">of {pointsWords(one.most)}</span>
                      {one.lost !== "0" && <span className="soft"> (late: −{pointsWords(one.lost)})</span>}
                    </>
                  ),
                },
                { title: "To look at first", className: "findings", render: (_, one) => <Findings line={one} assignmentId={assignmentId} /> },
                {
                  title: "Given back",
                  sorter: (a, b) => (a.given?.opens_at ?? "~").localeCompare(b.given?.opens_at ?? "~"),
                  render: (_, one) => <Given line={one} zone={data.assignment.time_zone} onTakeBack={() => setTakingBack(one)} />,
                },
              ]}
            />
            <GiveBack
              data={data}
              chosen={chosen}
              busy={give.isPending}
              error={give.error}
              done={give.isSuccess && !give.isPending}
              onGive={(body) => give.mutate(body)}
              onAll={() => setChosen(data.folios.map((one) => one.folio_id))}
            />
            <section className="marks-files" aria-label="Files that come with the marks">
              <FilesOfWork assignmentId={assignmentId} files={data.files} to="marks-files" words="Add the model answer, or another file" onChanged={onChanged} />
            </section>
            <h2>How the questions came out</h2>
            <QuestionFigures figures={data.figures} />
            <h2>Out of the house</h2>
            <p className="giving-back-files">
              <FileButton small href={`${base}/marks.csv`}>Marks as CSV</FileButton>
              <FileButton small href={`${base}/marks-oneroster.zip`}>Marks as OneRoster</FileButton>
              <FileButton small href={data.folios.length > 0 ? `${base}/marked.zip` : undefined}>A marked PDF a student</FileButton>
            </p>
          </>
        )}
        {takingBack && (
          <TakeBack line={takingBack} busy={takeBack.isPending} error={takeBack.error} onClose={() => setTakingBack(null)} onTakeBack={(why) => takeBack.mutate({ folio: takingBack.folio_id, why })} />
        )}
      </main>
    </div>
  );
}

function Findings({ line, assignmentId }: { line: Line; assignmentId: number }) {
  if (line.findings.length === 0) return <span className="soft">nothing</span>;
  return line.findings.map((one) => (
    <div key={one.code}>
      <Link to={`/marking/${assignmentId}/${line.folio_id}${one.labels[0] ? `#${encodeURIComponent(one.labels[0])}` : ""}`} className="red">
        {findingWords(one)}
      </Link>
    </div>
  ));
}

function Given({ line, zone, onTakeBack }: { line: Line; zone: string; onTakeBack: () => void }) {
  const { given } = line;
  if (!given) return <span className="soft">not yet</span>;
  return (
    <>
      {given.is_seen ? dayAndTime(given.opens_at, zone) : `will be on ${dayAndTime(given.opens_at, zone)}`}
      {given.changed && <strong className="red"> marked otherwise since</strong>}{" "}
      <button type="button" className="plain" onClick={onTakeBack}>
        Take back …<span className="unseen"> the marks of {line.student}</span>
      </button>
    </>
  );
}
