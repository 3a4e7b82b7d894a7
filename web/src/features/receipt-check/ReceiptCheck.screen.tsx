import { useMutation } from "@tanstack/react-query";
import { Upload } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import { answer, api, type Schemas } from "../../shared/api/client";
import { dayAndTime, clockTime, lengthOfTime } from "../../shared/time";
import { Themed } from "../../shared/ui/Themed";
import { Trouble } from "../../shared/ui/Trouble";
import { count } from "../../shared/words";
import { attachedReceipt, isSignedFile, showsReceipt } from "./boundFile";
import "./ReceiptCheck.css";

interface Chosen {
  pdf: File | null;
  receipt: File | null;
}

interface Found {
  check: Schemas["ReceiptCheckOut"];
  /** Null: no bound PDF was given. */
  pdfHolds: boolean | null;
  /** The receipt's own PDF was given, not the work. */
  inPrint: boolean;
}

/** For anybody who was handed a receipt or a bound PDF: whether it holds. The PDF stays on this device. */
export default function ReceiptCheck() {
  const [chosen, setChosen] = useState<Chosen>({ pdf: null, receipt: null });
  const check = useMutation({ mutationFn: checked });
  function take(file: File) {
    // A second file of the same kind begins anew: it need not belong to what was chosen before.
    const next = isPdf(file)
      ? { pdf: file, receipt: chosen.pdf ? null : chosen.receipt }
      : { pdf: chosen.receipt ? null : chosen.pdf, receipt: file };
    setChosen(next);
    check.mutate(next);
  }
  return (
    <main className="receipt-check">
      <p className="receipt-check-name">
        <Link to="/">Inked Folio</Link>
      </p>
      <h1>Does this receipt hold?</h1>
      <p className="soft">
        Choose a bound PDF, its signed receipt, or one after the other. A PDF is looked at on this device and is not sent; the receipt in it is
        sent to the server, which forgets it again.
      </p>
      <Themed>
        <Upload.Dragger
          accept=".pdf,.json,application/pdf,application/json"
          showUploadList={false}
          beforeUpload={(file) => {
            take(file);
            return false;
          }}
        >
          <p>Choose a file, or drop it here</p>
          <p className="soft">{[chosen.pdf?.name, chosen.receipt?.name].filter(Boolean).join(" · ") || "bound PDF, receipt as PDF, or signed receipt"}</p>
        </Upload.Dragger>
      </Themed>
      <div role="status" aria-live="polite">
        {check.isPending && <p>Checking …</p>}
        {check.data && <Result found={check.data} />}
      </div>
      {check.isError && <Trouble error={check.error} />}
    </main>
  );
}

function isPdf(file: File): boolean {
  return file.type === "application/pdf" || file.name.toLowerCase().endsWith(".pdf");
}

async function checked({ pdf, receipt }: Chosen): Promise<Found> {
  const file = pdf && new Uint8Array(await pdf.arrayBuffer());
  const signed = receipt ? await receipt.text() : file && attachedReceipt(file);
  if (!signed)
    throw new Error("There is no receipt in this PDF. If you have the signed receipt as a file of its own, choose it too.");
  // Sent as it is: a receipt that was changed must reach the server changed.
  const check = await answer(api.POST("/api/receipt-checks", { body: signed as never, bodySerializer: (body) => body }));
  const inPrint = file !== null && showsReceipt(file);
  return { check, inPrint, pdfHolds: file && check.file && !inPrint ? await isSignedFile(file, check.file) : null };
}

function Result({ found: { check, pdfHolds, inPrint } }: { found: Found }) {
  return (
    <>
      <ul className="receipt-check-lines">
        <Line holds={check.signed === "here" ? true : check.signed === "no" ? false : null}>
          {check.signed === "here" && `The receipt is genuine. ${check.facts?.issuer ?? ""} signed it, and nothing in it was changed.`}
          {check.signed !== "here" && check.message}
        </Line>
        {check.file && (
          <Line holds={pdfHolds}>
            {inPrint && "This PDF is a receipt in print. Its printed words were not checked: what was signed stands below. The work is the bound PDF."}
            {pdfHolds === null && !inPrint && "Only the receipt was looked at. Choose the PDF too, to see whether they belong together."}
            {pdfHolds === true && "The PDF is the one this receipt is for, to the last byte."}
            {pdfHolds === false && "The PDF is not the one this receipt is for, or something in it was changed."}
          </Line>
        )}
        {check.signed === "here" && (
          <Line holds={check.kept === "newest" ? true : null}>
            {check.kept === "newest" && "It is the edition that counts: none was handed in after it."}
            {check.kept === "later_edition" && `A later one was handed in, edition ${check.newest}, which counts. This one is kept beside it.`}
            {check.kept === "taken_back" && "Its student took it back after that, and nothing was handed in again."}
            {check.kept === "bound_anew" && "The same edition was bound anew later, with a page that could not be opened at first."}
            {check.kept === "unknown" && "This installation does not have the edition any more, so it is not known whether a later one was handed in."}
          </Line>
        )}
      </ul>
      {check.facts && <Facts facts={check.facts} />}
    </>
  );
}

function Line({ holds, children }: { holds: boolean | null; children: React.ReactNode }) {
  const words = holds === null ? "To know" : holds ? "Holds" : "Does not hold";
  return (
    <li data-holds={holds}>
      <strong>{words}</strong>
      <span>{children}</span>
    </li>
  );
}

function Facts({ facts }: { facts: Schemas["ReceiptFactsOut"] }) {
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  const late = facts.verdict === "late" ? `late by ${lengthOfTime(facts.late_seconds * 1000)}` : "in time";
  return (
    <section aria-labelledby="receipt-says">
      <h2 id="receipt-says">What it says</h2>
      <dl className="receipt-check-facts">
        <dt>Student</dt>
        <dd>{[facts.student, facts.student_number && `no. ${facts.student_number}`].filter(Boolean).join(" · ")}</dd>
        <dt>Work</dt>
        <dd>{[`${facts.course} ${facts.assignment}`, facts.section].filter(Boolean).join(" · ")}</dd>
        <dt>Edition</dt>
        <dd>
          {facts.edition}, {count(facts.pages, "page")}
          {facts.short_hash && (
            <>
              {" "}
              <span className="soft">
                · at the foot of each page: <span className="hash">{facts.short_hash}</span>
              </span>
            </>
          )}
        </dd>
        <dt>Handed in</dt>
        <dd>
          {dayAndTime(facts.handed_in, zone)}:{clockTime(facts.handed_in, zone, true).slice(-2)} <span className="soft">({zone})</span>, {late}
          {facts.by_itself && ", by itself at the close"}
        </dd>
        {facts.counts && facts.counts !== facts.handed_in && (
          <>
            <dt>Counts as of</dt>
            <dd>
              {dayAndTime(facts.counts, zone)}:{clockTime(facts.counts, zone, true).slice(-2)} <span className="soft">({zone})</span>
            </dd>
          </>
        )}
        {facts.taken_in && (
          <>
            <dt>Taken in</dt>
            <dd>
              by {facts.taken_in.by} for the student: “{facts.taken_in.reason}”
            </dd>
          </>
        )}
        {(facts.asked ?? []).length > 0 && (
          <>
            <dt>Asked for again</dt>
            <dd>{(facts.asked ?? []).map((one) => `${one.number === null ? "" : `page ${one.number}, `}by ${one.by}: “${one.reason}”`).join("; ")}</dd>
          </>
        )}
        <dt>Open questions</dt>
        <dd>{facts.open.join(", ") || "none"}</dd>
      </dl>
    </section>
  );
}
