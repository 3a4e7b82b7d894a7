import { useMutation } from "@tanstack/react-query";
import { Input } from "antd";
import { useId, useState } from "react";
import { readLabels } from "../../folio/readLabels";
import { Talk } from "../../folio/Talk";
import { answer, api, type Schemas } from "../../shared/api/client";
import { dayAndTime } from "../../shared/time";
import { Button } from "../../shared/ui/Button";
import { Themed } from "../../shared/ui/Themed";
import { Trouble } from "../../shared/ui/Trouble";
import { list } from "../../shared/words";

type Folio = Schemas["ReadingOut"];
type Page = Schemas["ReadingPage"];

interface PageDeedsProps {
  folio: Folio;
  page: Page;
  onAsk: () => void;
  onChanged: () => void;
}

/** What staff do at a page they read: place what is unplaced, ask for it again, say something about it. */
export function PageDeeds({ folio, page, onAsk, onChanged }: PageDeedsProps) {
  const [placing, setPlacing] = useState(false);
  const path = { folio_id: folio.folio_id, number: folio.edition ?? 0 };
  const mine = folio.questions.flatMap((one) => one.spots.filter((spot) => spot.page === page.number && spot.by).map((spot) => ({ label: one.label, by: spot.by })));
  const byStudent = folio.questions.some((one) => one.spots.some((spot) => spot.page === page.number && !spot.by));
  const open = folio.questions.filter((one) => one.state === "open" || one.state === "left_blank");
  const asked = folio.askings.find((one) => one.page === page.id);
  const zone = folio.assignment.time_zone;
  const takeOff = useMutation({
    mutationFn: (label: string) =>
      answer(api.POST("/api/folios/{folio_id}/editions/{number}/reader-placements/take-off", { params: { path }, body: { number: page.number, label } })),
    onSuccess: onChanged,
  });
  return (
    <div className="page-deeds">
      {mine.length > 0 && (
        <p>
          Placed by {list([...new Set(mine.map((one) => one.by))])}, not by the student:{" "}
          {mine.map((one) => (
            <button key={one.label} type="button" className="plain" disabled={takeOff.isPending} onClick={() => takeOff.mutate(one.label)}>
              take {one.label} off
            </button>
          ))}
        </p>
      )}
      {asked && (
        <p className="red">
          Asked for again until {dayAndTime(asked.until, zone)}: “{asked.reason}” <Withdraw asking={asked} onDone={onChanged} />
        </p>
      )}
      <p className="page-deeds-doors">
        {(!byStudent || open.length > 0) && (
          <button type="button" className="plain" aria-expanded={placing} onClick={() => setPlacing(!placing)}>
            Place {byStudent ? "an open question here" : "this page"}
          </button>
        )}
        {folio.whole && !asked && (
          <button type="button" className="plain" onClick={onAsk}>
            Ask for page {page.number} again
          </button>
        )}
      </p>
      {placing && (
        <Placing
          path={path}
          page={page.number}
          questions={byStudent ? open : folio.questions}
          onDone={() => {
            setPlacing(false);
            onChanged();
          }}
        />
      )}
      <Talk folioId={folio.folio_id} page={page.id} words={folio.words} zone={zone} ask="Ask or tell the student about this page" onSaid={onChanged} />
      {takeOff.error && <Trouble error={takeOff.error} />}
    </div>
  );
}

export function Withdraw({ asking, onDone }: { asking: Schemas["AskingOut"]; onDone: () => void }) {
  const withdraw = useMutation({
    mutationFn: () => answer(api.POST("/api/askings/{asking_id}/withdraw", { params: { path: { asking_id: asking.id } } })),
    onSuccess: onDone,
  });
  return (
    <button type="button" className="plain" disabled={withdraw.isPending} onClick={() => withdraw.mutate()}>
      Not needed any more
    </button>
  );
}

interface PlacingProps {
  path: { folio_id: number; number: number };
  page: number;
  questions: Schemas["ReadingQuestion"][];
  onDone: () => void;
}

/** Labels typed as the student types them. */
function Placing({ path, page, questions, onDone }: PlacingProps) {
  const [text, setText] = useState("");
  const id = useId();
  const map = questions.map((one) => ({ id: one.label, label: one.label }));
  const read = readLabels(text, map);
  const place = useMutation({
    mutationFn: () =>
      answer(api.POST("/api/folios/{folio_id}/editions/{number}/reader-placements", { params: { path }, body: { number: page, labels: read.questions } })),
    onSuccess: onDone,
  });
  const wrong = text.trim() !== "" && read.unknown.length > 0;
  return (
    <Themed>
      <form
        className="page-deeds-placing"
        onSubmit={(event) => {
          event.preventDefault();
          if (read.questions.length > 0 && !wrong) place.mutate();
        }}
      >
        <label htmlFor={id}>Page {page} answers</label>
        {/* eslint-disable-next-line jsx-a11y/no-autofocus -- it was just asked for */}
        <Input id={id} autoFocus value={text} placeholder={map[0] ? `for example ${map[0].label}` : ""} onChange={(event) => setText(event.target.value)} />
        <Button small type="submit" busy={place.isPending} disabled={read.questions.length === 0 || wrong}>
          Place it
        </Button>
        <span className="soft" role="status">
          {wrong ? `${read.unknown.join(", ")} is not open here. ` : ""}The student’s edition stays as it is; this lies over it.
        </span>
        {place.error && <Trouble error={place.error} />}
      </form>
    </Themed>
  );
}
