import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { FileButton, LinkButton } from "../../shared/ui/Button";
import { answer, api, type Schemas } from "../../shared/api/client";
import { AskOnce } from "../../shared/ui/AskOnce";
import { Masthead } from "../../shared/ui/Masthead";
import { clockTime, dayAndTime, lengthOfTime } from "../../shared/time";
import { ChangedSince } from "../../folio/ChangedSince";
import { TimeRail } from "../../folio/TimeRail";
import { Table } from "../../shared/ui/Table";
import { Trouble } from "../../shared/ui/Trouble";
import { count, size } from "../../shared/words";
import "./Receipt.css";
import { queryKeys } from "../../shared/queryKeys";

type ReceiptData = Schemas["ReceiptOut"];

/** The proof of one edition: number, time, pages, fingerprints, and the files themselves. */
export default function Receipt() {
  const params = useParams();
  const path = { folio_id: Number(params.folioId), number: Number(params.number) };
  const receipt = useQuery({
    queryKey: queryKeys.receipt(path.folio_id, path.number),
    queryFn: () => answer(api.GET("/api/folios/{folio_id}/editions/{number}", { params: { path } })),
    refetchInterval: (query) => (query.state.data?.state === "binding" ? 700 : false),
  });
  const data = receipt.data;
  return (
    <div className="screen">
      <Masthead help="receipt" title={data?.assignment.title ?? ""} course={data?.assignment.course} />
      {data && <TimeRail sitting={{ ...data, rehearsal: data.look_back !== null }} safe="" />}
      <main>
        {receipt.isError && <Trouble error={receipt.error} onRetry={() => void receipt.refetch()} />}
        {data && <Proof receipt={data} />}
      </main>
    </div>
  );
}

function Proof({ receipt }: { receipt: ReceiptData }) {
  const zone = receipt.assignment.time_zone;
  const base = `/api/folios/${receipt.folio_id}/editions/${receipt.number}`;
  const bound = receipt.state === "bound";
  return (
    <div className="receipt">
      <section aria-labelledby="receipt-head">
        {receipt.look_back && (
          <p className="receipt-rehearsal">
            <strong>A rehearsal: this counts for nothing.</strong>
          </p>
        )}
        <h1 id="receipt-head">{receipt.taken_back_at ? "Taken back" : receipt.automatic ? "Handed in by itself" : "Handed in"}</h1>
        {receipt.taken_back_at && (
          <p className="receipt-taken-back">
            <strong className="red">Taken back {dayAndTime(receipt.taken_back_at, zone)}.</strong>{" "}
            {receipt.number === receipt.newest && "Nothing is handed in now. At the close, what is on the board is handed in by itself."}
          </p>
        )}
        <p className="receipt-when">
          {dayAndTime(receipt.handed_in_at, zone)}:{clockTime(receipt.handed_in_at, zone, true).slice(-2)}
          {receipt.verdict === "late" ? (
            <strong className="red"> · late by {lengthOfTime(receipt.late_seconds * 1000)}</strong>
          ) : (
            " · in time"
          )}
        </p>
        {receipt.automatic && (
          <p className="soft">Nobody pressed the button: what had arrived was handed in when the time was up.</p>
        )}
        {receipt.changed && <ChangedSince folioId={receipt.folio_id} changed={receipt.changed} timeZone={zone} whole />}
        {receipt.look_back && <LookBack told={receipt.look_back} />}
        <dl className="receipt-facts">
          <Fact term="Edition">
            {receipt.number}
            {!receipt.look_back && ` · ${standing(receipt)}`}
          </Fact>
          {receipt.taken_in && (
            <Fact term="Taken in">
              by {receipt.taken_in.by} for {receipt.is_own ? "you" : receipt.student}: “{receipt.taken_in.reason}”
            </Fact>
          )}
          {receipt.counts_at && receipt.counts_at !== receipt.handed_in_at && (
            <Fact term="Counts as of">
              {dayAndTime(receipt.counts_at, zone)}:{clockTime(receipt.counts_at, zone, true).slice(-2)}
              {!receipt.taken_in && ", when these pages were handed in: only their order or places were changed since"}
            </Fact>
          )}
          {receipt.asked.length > 0 && (
            <Fact term="Asked for again">{receipt.asked.map((one) => `${one.number === null ? "" : `page ${one.number}, `}by ${one.by}: “${one.reason}”`).join("; ")}</Fact>
          )}
          <Fact term="Pages">{receipt.page_count}</Fact>
          {receipt.on_screen.length > 0 && (
            <Fact term="Answers on the screen">
              {receipt.on_screen.map((one) => (
                <span key={one.label} className="receipt-typed">
                  {one.label} <span className="soft">{one.kinds.join(", ")}, saved {clockTime(one.saved, zone, true)}</span>{" "}
                  <span className="hash">{one.sha256}</span>
                </span>
              ))}
            </Fact>
          )}
          <Fact term="Open questions">{receipt.open_labels.join(", ") || "none"}</Fact>
          {receipt.left_blank.length > 0 && <Fact term="Left blank">{receipt.left_blank.join(", ")}</Fact>}
          {receipt.honour && (
            <Fact term="Words of honour">
              “{receipt.honour}” {receipt.honour_confirmed ? "confirmed by handing in" : "not confirmed: handed in by itself"}
            </Fact>
          )}
          {receipt.comment && <Fact term="Your word to the reader">{receipt.comment}</Fact>}
          {receipt.not_delivered.length > 0 && (
            <Fact term="Promised and not delivered">
              {receipt.not_delivered.map((one) => `${one.file_name} (promised ${clockTime(one.promised, zone, true)})`).join(", ")}
            </Fact>
          )}
          <Fact term="Bound PDF">
            {bound ? (
              <>
                {receipt.bound_anew && <>Bound anew, with a page that could not be opened at first. The first file is kept. </>}
                <span className="hash">{receipt.file_sha256}</span> <span className="soft">SHA-256 of the file</span>
              </>
            ) : (
              <span role="status">It is handed in. The PDF is being bound …</span>
            )}
          </Fact>
        </dl>
        <p className="receipt-doors">
          <FileButton first href={bound ? `${base}/bound.pdf` : undefined}>
            Download the bound PDF{bound && ` (${size(receipt.bound_size)})`}
          </FileButton>
          <FileButton href={bound ? `${base}/receipt.pdf` : undefined}>Download the receipt</FileButton>
          <LinkButton to={`/folios/${receipt.folio_id}/editions/${receipt.number}/pages`}>See it as it is read</LinkButton>
        </p>
        <p className="soft">
          The signed receipt is inside both PDFs, and <a href={bound ? `${base}/receipt.json` : undefined}>by itself</a>. Whoever gets one of them can{" "}
          <Link to="/check-receipt">check it</Link> without an account.
        </p>
        {receipt.pages.length > 0 && <Originals receipt={receipt} />}
      </section>
      <aside>
        {receipt.is_given_back && (
          <p>
            <LinkButton first to={`/folios/${receipt.folio_id}/returned`}>
              Your marks
            </LinkButton>
          </p>
        )}
        <Editions receipt={receipt} />
        {receipt.replace_until && (
          <>
            <p className="soft">
              Something wrong? Change it on the board and hand in again, until {dayAndTime(receipt.replace_until, zone)}.
            </p>
            <p>
              <Link to={`/folios/${receipt.folio_id}`}>Back to the board</Link>
            </p>
            {!receipt.look_back && !receipt.taken_back_at && receipt.is_own && receipt.number === receipt.newest && <TakeBack receipt={receipt} />}
          </>
        )}
        {receipt.look_back && <p className="soft">To rehearse again, open the brief of the real work from My folios.</p>}
        <p>
          <Link to="/">My folios</Link>
        </p>
      </aside>
    </div>
  );
}

/** A rehearsal looked back on. */
function LookBack({ told }: { told: Schemas["LookBackOut"] }) {
  return (
    <section className="look-back" aria-labelledby="look-back">
      <h2 id="look-back">What took how long</h2>
      <dl>
        {told.steps.map((step) => (
          <div key={step.words}>
            <dt>{step.words}</dt>
            <dd>{lengthOfTime(step.seconds * 1000)}</dd>
          </div>
        ))}
      </dl>
      <h2>What to do better</h2>
      <ul>
        {told.better.map((words) => (
          <li key={words}>{words}</li>
        ))}
      </ul>
    </section>
  );
}

function standing({ number, newest, taken_back_at }: ReceiptData): string {
  if (taken_back_at) return "taken back";
  return number === newest ? "the one that counts" : `edition ${newest} counts`;
}

/** Asked once: nothing is handed in then. Handing in again undoes it. */
function TakeBack({ receipt }: { receipt: ReceiptData }) {
  const queries = useQueryClient();
  const [asking, setAsking] = useState(false);
  const path = { folio_id: receipt.folio_id };
  const takeBack = useMutation({
    mutationFn: () => answer(api.POST("/api/folios/{folio_id}/take-back", { params: { path }, body: { edition: receipt.newest } })),
    onSettled: () => queries.invalidateQueries(),
  });
  const zone = receipt.assignment.time_zone;
  return (
    <p>
      <button type="button" className="plain" disabled={takeBack.isPending} onClick={() => setAsking(true)}>
        Take it back
      </button>
      {takeBack.error && <Trouble error={takeBack.error} />}
      {asking && (
        <AskOnce
          title="Take back what you handed in?"
          yes="Take it back"
          no="Leave it handed in"
          onNo={() => setAsking(false)}
          onYes={() => {
            setAsking(false);
            takeBack.mutate();
          }}
        >
          Nothing is handed in then, and no earlier edition counts either. Handing in again undoes it. At the close
          {receipt.replace_until && `, ${dayAndTime(receipt.replace_until, zone)},`} what is on the board is handed in by itself.
        </AskOnce>
      )}
    </p>
  );
}

function Fact({ term, children }: { term: string; children: React.ReactNode }) {
  return (
    <div>
      <dt>{term}</dt>
      <dd>{children}</dd>
    </div>
  );
}

function Originals({ receipt }: { receipt: ReceiptData }) {
  const zone = receipt.assignment.time_zone;
  return (
    <section className="receipt-pages" aria-labelledby="receipt-pages">
      <h2 id="receipt-pages">{count(receipt.pages.length, "page")}, with the SHA-256 of each original as it came</h2>
      <Table
        size="small"
        rowKey="number"
        pagination={false}
        dataSource={receipt.pages}
        columns={[
          { title: "Page", dataIndex: "number", width: 56 },
          {
            title: "Answers",
            width: 120,
            render: (_, page) => page.labels.join(" ") || <span className="soft">{page.loose ? "loose page" : "nothing placed"}</span>,
          },
          {
            title: "Original",
            render: (_, page) => (
              <>
                <a href={`/api/originals/${page.original_id}/file`} download>
                  {page.file_name}
                </a>
                {page.index > 0 && <span className="soft"> page {page.index + 1}</span>}
              </>
            ),
          },
          { title: "Arrived", render: (_, page) => <Arrived page={page} zone={zone} /> },
          { title: "SHA-256", dataIndex: "sha256", className: "hash", width: 260 },
        ]}
      />
    </section>
  );
}

function Arrived({ page, zone }: { page: Schemas["ReceiptPage"]; zone: string }) {
  const at = clockTime(page.arrived, zone, true);
  if (page.promised)
    return (
      <>
        promised {clockTime(page.promised, zone, true)},
        <br />
        delivered {at}
      </>
    );
  return (
    <>
      {at}
      {page.verdict === "late" && <span className="red"> late by {lengthOfTime(page.late_seconds * 1000)}</span>}
    </>
  );
}

function Editions({ receipt }: { receipt: ReceiptData }) {
  return (
    <section aria-labelledby="editions">
      <h2 id="editions">Editions</h2>
      <ol className="receipt-editions">
        {receipt.editions.map((one) => (
          <li key={one.number} aria-current={one.number === receipt.number}>
            <Link to={`/folios/${receipt.folio_id}/editions/${one.number}`}>Edition {one.number}</Link>
            <span className="soft">
              {dayAndTime(one.handed_in_at, receipt.assignment.time_zone)} · {count(one.page_count, "page")}
              {one.automatic && " · by itself"}
              {one.taken_back_at && " · taken back"}
            </span>
            {one.number !== receipt.number && (
              <Link to={`/folios/${receipt.folio_id}/editions/${receipt.number}/compared/${one.number}`}>
                Compare<span className="unseen"> edition {receipt.number} with edition {one.number}</span>
              </Link>
            )}
          </li>
        ))}
      </ol>
    </section>
  );
}
