import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import { Button } from "../../shared/ui/Button";
import { answer, api, type Schemas } from "../../shared/api/client";
import { Masthead } from "../../shared/ui/Masthead";
import { onTheWay, type Upload } from "../../shared/sending/UploadQueue";
import { safety, useUploads } from "../../shared/sending/useUploads";
import { pagesOf, settled } from "../../folio/arrangement";
import { TimeRail } from "../../folio/TimeRail";
import { dayAndTime } from "../../shared/time";
import { Trouble } from "../../shared/ui/Trouble";
import { count, list } from "../../shared/words";
import { adviceOf } from "../../folio/advice";
import { contradictions } from "../../folio/ordering";
import { NOT_ANSWERED } from "../../folio/answers/AnswerStore";
import { isOnPages, onScreen } from "../../folio/answers/content";
import { useAnswers } from "../../folio/answers/useAnswers";
import { useHandIn } from "../../folio/useHandIn";
import { AskOnce } from "../../shared/ui/AskOnce";
import { useArrangement } from "../../folio/useArrangement";
import { useSuggestion } from "../../folio/useSuggestion";
import { labelWords } from "../../folio/labelWords";
import { type BoardData, mayPlace, useBoard } from "../../folio/useBoard";
import { PaperDoor } from "../../folio/PaperDoor";
import { FolioWord } from "../../folio/WordField";
import { Reader } from "../../folio/Reader";
import { toldOfSheets } from "./sheetsTold";
import "../../folio/smallHead.css";
import "./Check.css";
import { queryKeys } from "../../shared/queryKeys";

type Draft = Schemas["ReadingOut"];

/** The last look before handing in: what is open, what looks wrong, and the document as it will be seen. */
export default function Check() {
  const folioId = Number(useParams().folioId);
  const board = useBoard(folioId);
  const { uploads } = useUploads(folioId, board.data?.window, board.data?.arrangement.sides);
  const draft = useQuery({
    queryKey: queryKeys.draft(folioId, board.data?.version, board.data?.pages.map((page) => page.image).join(), board.data?.answers.map((one) => one.version).join()),
    enabled: board.data !== undefined,
    placeholderData: (before) => before,
    queryFn: () => {
      const path = { folio_id: folioId };
      return answer(api.GET("/api/folios/{folio_id}/draft", { params: { path } }));
    },
  });
  return (
    <div className="check">
      <header className="small-head">
        <Masthead help="check"
          title={board.data?.assignment.title ?? ""}
          course={board.data?.assignment.course}
          tools={board.data?.assignment.has_paper && <PaperDoor assignmentId={board.data.assignment.id} />}
        />
        {board.data && <TimeRail sitting={board.data} safe={safety(board.data.pages, pagesOf(board.data.arrangement), uploads)} />}
      </header>
      {board.isError && <Trouble error={board.error} onRetry={() => void board.refetch()} />}
      {draft.isError && <Trouble error={draft.error} onRetry={() => void draft.refetch()} />}
      {board.data && draft.isPending && <p className="soft check-waiting">Getting the document …</p>}
      {board.data && draft.data && (
        <main className="check-table">
          <Findings board={board.data} draft={draft.data} coming={onTheWay(uploads)} />
          <section className="check-document" aria-label="The document as it will be seen">
            {isEmpty(draft.data) ? (
              <p className="soft">
                There is no page{board.data.questions.some((one) => onScreen(one).length > 0) && " and no answer"} in this folio yet.
              </p>
            ) : (
              <Reader folio={draft.data} />
            )}
          </section>
        </main>
      )}
    </div>
  );
}

function Findings({ board, draft, coming }: { board: BoardData; draft: Draft; coming: Upload[] }) {
  const { questions, answers } = useAnswers(board);
  const unsaved = board.questions.filter((one) => (answers[one.id] ?? NOT_ANSWERED).saving !== "saved");
  const openQuestions = draft.questions.filter((one) => one.state === "open" && one.missing.some(isOnPages));
  const unanswered = draft.questions.filter((one) => one.state === "open" && one.missing.some((kind) => !isOnPages(kind)));
  const blank = draft.questions.filter((one) => one.state === "left_blank");
  const openPages = draft.pages.filter((page) => page.labels.length === 0 && !page.loose);
  const { order, removed } = board.arrangement;
  const numbers = new Map(order.filter((id) => !removed.includes(id)).map((id, index) => [id, index + 1]));
  const advice = board.pages
    .flatMap((page) => adviceOf(page, board.arrangement).map((one) => ({ ...one, number: numbers.get(page.id) })))
    .filter((one) => one.number !== undefined)
    .sort((a, b) => (a.number ?? 0) - (b.number ?? 0));
  const odd = contradictions(board.arrangement, board.questions);
  const { answered, of } = settled(board.arrangement, questions);
  const sides = board.arrangement.sides ?? null;
  const missing = sides !== null && sides !== draft.pages.length;
  const { arrangement } = useArrangement(board);
  const suggestion = useSuggestion(board, arrangement, mayPlace(board.window.phase));
  const named = (some: string[]) => list(labelWords([...new Set(some)], board.questions).split(" "));
  const at = (where: string) => `/folios/${board.id}?${where}`;
  const read = suggestion ? suggestion.places.length + suggestion.order.length + suggestion.others.length + suggestion.elsewhere.length : 0;
  const sheetsTold = board.sheets ? toldOfSheets(board.sheets, arrangement, named) : [];
  const nothing = openQuestions.length + openPages.length + advice.length + coming.length + odd.length + read + unanswered.length + unsaved.length + sheetsTold.length === 0 && !missing;
  return (
    <section className="check-findings" aria-label="What is missing">
      <h1>{nothing ? "Everything is in its place" : "Before you hand in"}</h1>
      <dl>
        <Finding term={count(draft.pages.length, "page")}>
          {answered} of {of} questions settled
        </Finding>
        <Finding term="Handed in as">
          {draft.student}, {draft.student_number ? `no. ${draft.student_number}` : <strong className="red">without a student number</strong>}
        </Finding>
        {board.sheets?.clean_print && (
          <Finding term="On the printed paper">In the bound PDF your answers lie on the paper as it was printed; here they are as photographed.</Finding>
        )}
        {board.askings.map((one) => (
          <Finding key={one.id} term={one.number === null ? "Asked for again" : `Page ${one.number} asked for again`} to={at(one.page === null ? "" : `asked=${one.page}`)} alarm={one.page !== null && numbers.has(one.page)}>
            “{one.reason}” {one.page !== null && (numbers.has(one.page) ? "It is still the old picture." : "It is taken again.")}
          </Finding>
        ))}
        {coming.length > 0 && (
          <Finding term={`${count(coming.length, "file")} on the way`} alarm>
            {list(coming.map((one) => one.file.name))}: not on the server yet. What you hand in now does not hold{" "}
            {coming.length === 1 ? "it" : "them"}.
          </Finding>
        )}
        {missing && (
          <Finding term={`${count(sides, "side")} written`} to={at("")} alarm>
            You said {count(sides, "side")}; {count(draft.pages.length, "page")} {draft.pages.length === 1 ? "is" : "are"} here.
          </Finding>
        )}
        {odd.map((one) => (
          <Finding key={one.after} term={`${one.after} before ${one.before}`} to={at(`page=${one.pages[0]}`)} alarm>
            {one.after} is on page {one.pages[0]}, {one.before} on page {one.pages[1]}. Leave it if that is so.
          </Finding>
        ))}
        {openQuestions.length > 0 && (
          <Finding term={`${count(openQuestions.length, "question")} without a page`} alarm>
            {openQuestions.map((one, number) => (
              <span key={one.label}>
                {number > 0 && ", "}
                <Link to={at(`question=${one.label}`)}>{one.label}</Link>
              </span>
            ))}
            : not left blank either
          </Finding>
        )}
        {unanswered.length > 0 && (
          <Finding term={`${count(unanswered.length, "question")} not answered on the screen`} alarm>
            {unanswered.map((one, number) => (
              <span key={one.label}>
                {number > 0 && ", "}
                <Link to={at(`question=${one.label}`)}>{one.label}</Link>
              </span>
            ))}
            : nothing typed or chosen, not left blank either
          </Finding>
        )}
        {unsaved.length > 0 && (
          <Finding term="Typed and not saved yet" to={at(`question=${unsaved[0]?.label}`)} alarm>
            {named(unsaved.map((one) => one.id))}: kept on this device. {unsaved.map((one) => answers[one.id]?.refusal).find(Boolean)}
          </Finding>
        )}
        {draft.on_screen.length > 0 && (
          <Finding term={`${count(draft.on_screen.length, "answer")} on the screen`}>{list(draft.on_screen.map((one) => one.label))}</Finding>
        )}
        {sheetsTold.map(({ term, words, alarm }) => (
          <Finding key={term} term={term} to={at("")} alarm={alarm}>
            {words}
          </Finding>
        ))}
        {openPages.length > 0 && (
          <Finding term={`${count(openPages.length, "page")} not placed`} alarm>
            {openPages.length === 1 ? "Page " : "Pages "}
            {openPages.map((page, number) => (
              <span key={page.number}>
                {number > 0 && ", "}
                <Link to={at(`page=${page.number}`)}>{page.number}</Link>
              </span>
            ))}
            : no question on {openPages.length === 1 ? "it" : "them"}
          </Finding>
        )}
        {suggestion && suggestion.places.length > 0 && (
          <Finding term={`${count(suggestion.places.length, "place")} read, not confirmed`} to={at(`page=${numbers.get(suggestion.places[0]?.page ?? 0)}`)} alarm>
            {named(suggestion.places.map((one) => one.question))}: read from your labels. Confirm them on the board, all with one key.
          </Finding>
        )}
        {suggestion && suggestion.order.length > 0 && (
          <Finding term="Another order read" to={at("")} alarm>
            By labels, times and names these look like pages {suggestion.order.map((page) => numbers.get(page)).join(", ")}.
          </Finding>
        )}
        {suggestion?.others.map((one) => (
          <Finding key={one.page} term={`Page ${numbers.get(one.page)}`} to={at(`page=${numbers.get(one.page)}`)} alarm>
            carries number {one.says}, which is another student’s. Is it yours?
          </Finding>
        ))}
        {suggestion?.elsewhere.map((one) => (
          <Finding key={one.page} term={`Page ${numbers.get(one.page)}`} to={at(`page=${numbers.get(one.page)}`)} alarm>
            seems to belong to {one.says}, as its head says.
          </Finding>
        ))}
        {suggestion?.doubled.map((one) => (
          <Finding key={one.question} term={`${named([one.question])} twice`} to={at(`page=${numbers.get(one.pages.at(-1) ?? 0)}`)}>
            begins on pages {list(one.pages.map((page) => String(numbers.get(page))))}. Is one of them another try?
          </Finding>
        ))}
        {suggestion?.doubts.map((one) => (
          <Finding key={`${one.page} ${one.question}`} term={`Page ${numbers.get(one.page)}`} to={at(`page=${numbers.get(one.page)}`)}>
            seems to hold {named([one.question])} too, which is not placed there. Leave it if that is so.
          </Finding>
        ))}
        {blank.length > 0 && (
          <Finding term={`${count(blank.length, "question")} left blank`}>
            {blank.map((one) => one.label).join(", ")}
          </Finding>
        )}
        {advice.map((one) => (
          <Finding key={`${one.number}-${one.code}`} term={`Page ${one.number}`} to={at(`page=${one.number}`)} alarm>
            {one.seen} {one.do}
          </Finding>
        ))}
      </dl>
      <HandIn board={board} empty={isEmpty(draft)} coming={coming.length} unplaced={openQuestions.length + openPages.length > 0} />
    </section>
  );
}

function isEmpty(draft: Draft): boolean {
  return draft.pages.length + draft.on_screen.length === 0;
}

interface FindingProps {
  term: string;
  /** Where it is mended. */
  to?: string;
  alarm?: boolean;
  children: React.ReactNode;
}

function Finding({ term, to, alarm = false, children }: FindingProps) {
  return (
    <div>
      <dt className={alarm ? "red" : ""}>{to ? <Link to={to}>{term}</Link> : term}</dt>
      <dd>{children}</dd>
    </div>
  );
}

interface HandInProps {
  board: BoardData;
  empty: boolean;
  coming: number;
  /** Questions or pages are open. */
  unplaced: boolean;
}

function HandIn({ board, empty, coming, unplaced }: HandInProps) {
  const { arrangement, saving, changed, store } = useArrangement(board);
  const newest = board.editions[0]?.number ?? 0;
  const handIn = useHandIn(board.id, newest, board.honour);
  const [asking, setAsking] = useState(false);
  const takenBack = board.editions[0]?.taken_back_at ?? null;
  const same = newest > 0 && takenBack === null && changed === null && saving === "saved";
  const open = mayPlace(board.window.phase);
  const [waits, setWaits] = useState(false);
  const { mutate, isIdle } = handIn;
  useEffect(() => {
    if (waits && coming === 0 && isIdle) mutate("receipt");
  }, [waits, coming, isIdle, mutate]);
  return (
    <div className="check-hand-in">
      <FolioWord
        comment={arrangement.comment}
        disabled={!open}
        onChange={(change, words, joins) => store.change(change, words, joins)}
      />
      {takenBack !== null && <p className="red">You took back edition {newest}: nothing is handed in now.</p>}
      {newest > 0 && takenBack === null && (
        <p className="soft">This makes edition {newest + 1}. The newest counts; edition {newest} is kept.</p>
      )}
      {board.window.phase === "asked_again" && (
        <p className="soft">Staff asked for this, so it is not late. What is here and was not handed in is handed in by itself at the end.</p>
      )}
      {board.window.phase === "placing" && (
        <p className="soft">
          The pages are as they were at the close, and in time. What you placed since is handed in with this, and by itself at{" "}
          {dayAndTime(board.window.placing_ends, board.assignment.time_zone)}.
        </p>
      )}
      <div className="check-foot">
        {board.window.phase === "late" && <p className="red">Past the due moment: this will be marked late.</p>}
        {!open && <p className="red">This closed {dayAndTime(board.window.closes, board.assignment.time_zone)}.</p>}
        {saving !== "saved" && (
          <p className="red" role="status">
            Your last change on the board is being saved.
          </p>
        )}
        {handIn.error && <Trouble error={handIn.error} />}
        {board.honour && open && (
          <div className="check-honour">
            <p className="soft" id="honour">By handing in you confirm:</p>
            <blockquote>{board.honour}</blockquote>
          </div>
        )}
        <p className="check-buttons">
          <Button first disabled={!open || empty} busy={handIn.isPending} onClick={() => (same ? setAsking(true) : handIn.mutate("receipt"))}>
            {board.honour ? "Confirm and hand in" : "Hand in"}
          </Button>
          {coming > 0 && open && (
            <Button busy={waits} onClick={() => setWaits(true)}>
              {board.honour ? "Confirm, hand in when all are safe" : "Hand in when all are safe"}
            </Button>
          )}
          {unplaced && open && !empty && !same && (
            <Button busy={handIn.isPending} onClick={() => handIn.mutate("board")}>
              {board.honour ? "Confirm, hand in now, place later" : "Hand in now, place later"}
            </Button>
          )}
          <Link to={`/folios/${board.id}`}>Back to the board</Link>
        </p>
        {waits && coming > 0 && (
          <p role="status">
            Waiting for {count(coming, "file")}. Keep this screen open; it is handed in by itself then.{" "}
            <button type="button" className="plain" onClick={() => setWaits(false)}>
              Do not wait
            </button>
          </p>
        )}
      </div>
      {asking && (
        <AskOnce
          title="Hand in the same again?"
          yes={`Hand in as edition ${newest + 1}`}
          no="Leave it as it is"
          onNo={() => setAsking(false)}
          onYes={() => {
            setAsking(false);
            handIn.mutate("receipt");
          }}
        >
          Nothing has changed since edition {newest}, which counts and stays.
        </AskOnce>
      )}
      <p className="soft check-note">
        Open questions never stop you. You can hand in again until the close; what is here then and was not handed in is handed
        in by itself.
      </p>
    </div>
  );
}
