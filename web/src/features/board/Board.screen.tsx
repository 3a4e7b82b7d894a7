import { useCallback, useDeferredValue, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { useParams } from "react-router";
import { LinkButton } from "../../shared/ui/Button";
import { lazily } from "../../shared/ui/later";
import { Masthead } from "../../shared/ui/Masthead";
import { safety, useUploads } from "../../shared/sending/useUploads";
import { clockTime } from "../../shared/time";
import { TimeRail } from "../../folio/TimeRail";
import { Trouble } from "../../shared/ui/Trouble";
import { useMedia } from "../../shared/useMedia";
import { count } from "../../shared/words";
import { Arrivals } from "./strip/Arrivals";
import type { Saving } from "../../folio/ArrangementStore";
import { linksOfFolio } from "../../folio/cameraLinks";
import { eventsOf } from "../../folio/eventWords";
import type { GivenQuestion } from "../../folio/answers/useAnswers";
import { type Arrangement, pagesOf, questionsByPage, setRemoved, setSides, settled } from "../../folio/arrangement";
import "../../folio/smallHead.css";
import "./Board.css";
import { boardKey } from "./keys";
import { LabelLine } from "./questions/LabelLine";
import { Loom } from "./questions/Loom";
import { contradictions } from "../../folio/ordering";
import { ShownPage } from "./page/PagePanel";
import { PhonePad } from "./phone/PhonePad";
import { PhonePage } from "./phone/PhonePage";
import { EmptyBoard } from "./EmptyBoard";
import { SidesCount } from "./strip/SidesCount";
import { Suggested } from "./proposals/Suggested";
import type { Place, Suggestion } from "../../folio/useSuggestion";
import { useConfirming } from "./proposals/useConfirming";
import { AnswerRows } from "./answers/AnswerRows";
import { answeredOnScreen, useAnswering } from "./answers/useAnswering";
import { usePicturesOf, usePlacedPictures } from "./answers/picturesOf";
import { useActions } from "./useActions";
import { useArrangement } from "../../folio/useArrangement";
import { type BoardData, mayAddPages, mayPlace, useBoard } from "../../folio/useBoard";
import { useAskedFor } from "./useAskedFor";
import { SheetsTold } from "./SheetsTold";
import { AskedAgain } from "./AskedAgain";
import { Talk } from "../../folio/Talk";
import { WhatCounts } from "./WhatCounts";
import { useCheckKey } from "./useCheckKey";
import { useChosenPage } from "./useChosenPage";
import { useDroppedFiles } from "./strip/useDroppedFiles";
import { useNewestPage } from "./phone/useNewestPage";
import { useStaffChanges } from "./useStaffChanges";
import { ChangedSince } from "../../folio/ChangedSince";
import { PaperDoor } from "../../folio/PaperDoor";
import { FolioWord } from "../../folio/WordField";

const CameraInvitation = lazily(async () => (await import("../../folio/CameraInvitation")).CameraInvitation);
const PhotographHere = lazily(async () => (await import("./PhotographHere")).PhotographHere);
const HistoryList = lazily(async () => (await import("./HistoryList")).HistoryList);
const KeyList = lazily(async () => (await import("./KeyList")).KeyList);
const QuestionPaper = lazily(async () => (await import("../../folio/QuestionPaper")).QuestionPaper);
const OrderDialog = lazily(async () => (await import("./strip/OrderDialog")).OrderDialog);

/** Where there is no room for the strip and its ribbons: a page at a time. So on a phone that lies on its side. */
export const SMALL = "(max-width: 760px), (max-width: 960px) and (max-height: 480px)";

export default function Board() {
  const folioId = Number(useParams().folioId);
  const board = useBoard(folioId);
  if (board.data) return <LoadedBoard key={folioId} board={board.data} />;
  return (
    <div className="screen">
      <Masthead help="board" title="" />
      {board.isError && <Trouble error={board.error} onRetry={() => void board.refetch()} />}
    </div>
  );
}

const NONE: readonly Place[] = [];
const NO_NUMBERS: Suggestion["others"] = [];

type Sheet = "keys" | "history" | "order" | "camera" | "here";

function LoadedBoard({ board }: { board: BoardData }) {
  const { arrangement, changed, saving, past, future, times, store } = useArrangement(board);
  const { uploads, queue } = useUploads(board.id, board.window, board.arrangement.sides);
  const { limits } = board;
  const [open, placing] = [mayAddPages(board.window.phase), mayPlace(board.window.phase)];
  const add = useCallback((files: File[]) => void queue.add(files, limits), [queue, limits]);
  const dragging = useDroppedFiles(add, open);
  const [pictures, addPictures] = usePicturesOf(queue, limits);
  const answering = useAnswering(board, {
    arrangement,
    open,
    onPictures: addPictures,
    onChange: (change, words, joins) => store.change(change, words, joins),
  });
  const { questions, openAnswer } = answering;
  useStaffChanges(board);
  const [chosen, choose] = useChosenPage(board.id);
  const [sheet, setSheet] = useState<Sheet | null>(null);
  const [larger, setLarger] = useState(false);
  const line = useRef<HTMLInputElement>(null);
  const small = useMedia(SMALL);
  const fine = useMedia("(pointer: fine)");

  const byId = useMemo(() => new Map(board.pages.map((page) => [page.id, page])), [board.pages]);
  const pages = useMemo(() => pagesOf(arrangement).flatMap((id) => byId.get(id) ?? []), [arrangement, byId]);
  const ids = pages.map((page) => page.id);
  const replaced = new Set(eventsOf(board.events, "retaken").flatMap(({ page: old, by }) => (ids.includes(by) ? [old] : [])));
  const retaken = uploads.find((one) => one.insteadOf !== null && one.insteadOf === chosen)?.pageId;
  const at = Math.max(0, pages.findIndex((page) => page.id === chosen || page.id === retaken));
  const page = pages[at];
  const coming = uploads.filter((one) => one.state !== "refused" && (one.pageId === null || !byId.has(one.pageId)));
  const actions = useActions({ questions, pages, arrangement, store, at, choose });
  const { undo, redo } = actions;
  useAskedFor(ids, actions.look, useCallback((label: string) => answeredOnScreen(questions, label), [questions]), openAnswer);
  usePlacedPictures(pictures, uploads, ids, actions.place);
  useCheckKey(board.id);
  useNewestPage(small, uploads, byId, actions.look);
  const zoneOf = board.assignment.time_zone;
  const { id: assignmentId, has_paper: hasPaper } = board.assignment;
  const paper = useMemo(() => hasPaper && <PaperDoor assignmentId={assignmentId} />, [hasPaper, assignmentId]);

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const key = event.key.toLowerCase();
      if (!(event.ctrlKey || event.metaKey) || (key !== "z" && key !== "y")) return;
      if (event.target instanceof Element && event.target.closest("textarea, .answer")) return; // there the field's own undo
      event.preventDefault();
      if (event.shiftKey || key === "y") redo();
      else undo();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [undo, redo]);
  const hasPages = pages.length > 0;
  const ready = useDeferredValue(true, false); // the strip is there first
  const { suggestion, confirmHere, confirmAll } = useConfirming(board, arrangement, actions, page?.id, ready && placing);
  const [toOrder, toConfirm] = [suggestion?.order.length, suggestion?.places.length];
  useLayoutEffect(() => {
    // Before the board is seen, and when the button that was pressed is gone: what is typed at once must not be lost.
    if (fine && hasPages && document.activeElement === document.body) line.current?.focus();
  }, [fine, hasPages, toOrder, toConfirm]);

  const help = () => setSheet("keys");
  /** Digits go to the line, also from the button by which pages were just added. */
  const toLine = (event: React.KeyboardEvent) => {
    if (/^\d$/.test(event.key) && !event.ctrlKey && !event.metaKey && !event.altKey) line.current?.focus();
  };
  /** Keys of the strip, of the large page and of the empty label line. */
  const onKey = (event: React.KeyboardEvent): boolean => {
    toLine(event);
    const wider = { onLarger: (by: 1 | -1) => setLarger(by > 0), onHelp: help, onConfirm: confirmHere, onConfirmAll: confirmAll };
    return boardKey(event, at, ids, actions, wider);
  };

  const takeAgainOf = (picture: File, of: number) => {
    choose(of);
    void queue.add([picture], limits, of);
  };
  const takeAgain = (picture: File) => page && takeAgainOf(picture, page.id);

  const { openPages, answered, of, odd } = useMemo(() => standing(arrangement, pages, questions), [arrangement, pages, questions]);
  const steps = (
    <>
      <button type="button" className="plain" disabled={future.length === 0} onClick={redo} title={tip(future, "Ctrl Shift Z")}>
        Redo
      </button>
      <button type="button" className="plain" onClick={() => setSheet("history")}>
        History
      </button>
    </>
  );
  return (
    <div className={small ? "board board-small" : "board"}>
      <header className="board-top small-head">
        <Masthead help="board" title={board.assignment.title} course={board.assignment.course} tools={paper} />
        <TimeRail sitting={board} safe={safety(board.pages, ids, uploads)} />
      </header>
      <main className="board-table">
        <h1 className="unseen">Board</h1>
        <WhatCounts board={board} isOpen={openPages.length > 0 || answered < of} differs={changed !== null} />
        {board.askings.length > 0 && <AskedAgain board={board} ids={ids} onTakeAgain={takeAgainOf} />}
        {board.keptAt && <WithoutNetwork at={board.keptAt} zone={zoneOf} />}
        <div className="board-notices">
          {changed && <ChangedSince folioId={board.id} changed={changed} timeZone={zoneOf} />}
          <Arrivals
            uploads={uploads}
            pages={board.pages}
            room={board.room}
            removed={arrangement.removed.filter((id) => !replaced.has(id)).flatMap((id) => byId.get(id) ?? [])}
            onDismiss={(key) => queue.dismiss(key)}
            onRestore={(id) => {
              actions.change(setRemoved(id, false), "A page restored");
              choose(id);
            }}
          />
        </div>
        {board.sheets && ready && (
          <SheetsTold
            {...{ board, arrangement, ids, small }}
            numbered={suggestion?.others ?? NO_NUMBERS}
            mayPlace={placing}
            onLeaveBlank={(questions) => actions.leaveBlank(questions, true)}
            onKeepOnly={actions.keepOnly}
            onKeepAll={actions.keepAll}
          />
        )}
        {suggestion && !board.sheets && (
          <Suggested
            {...{ suggestion, pages, questions, onKey }}
            mayPlace={placing}
            onOrder={(order) => actions.order(order, "by what is read on them")}
            onConfirmAll={confirmAll}
          />
        )}
        {pages.length + coming.length === 0 && open && !answering.noPages && <EmptyBoard timed={board.window.timed} kinds={board.limits.kinds} onAdd={add} />}
        {small && <AnswerRows questions={answering.here} words={answering.words} chosen={answering.chosen} onOpen={openAnswer} />}
        {small && answering.panel}
        {small && answering.panel ? null : small ? (
          <PhonePage
            {...{ board, pages, coming, arrangement, actions, at, open, placing, add, takeAgain }}
            onCamera={fine ? () => setSheet("camera") : null}
            onOrder={() => setSheet("order")}
          />
        ) : (
          <>
            <Loom
              {...{ board, pages, coming, arrangement, actions, at, open, placing, add, onKey, toLine, ready }}
              proposed={suggestion?.places ?? NONE}
              questions={questions}
              answers={answering.words}
              onAnswer={openAnswer}
              onOrder={() => setSheet("order")}
              onCamera={() => setSheet("camera")}
              onHere={() => setSheet("here")}
              onChosen={() => fine && line.current?.focus()}
            />
            {odd.length > 0 && (
              <p className="board-odd">
                <strong>Order and questions do not go together:</strong>{" "}
                {odd.slice(0, 3).map((one) => `${one.after} is on page ${one.pages[0]}, before ${one.before} on page ${one.pages[1]}`).join("; ")}
                {odd.length > 3 && `; and ${odd.length - 3} more`}. That may be as you want it.
              </p>
            )}
            {page && (
              <LabelLine ref={line} {...{ questions, arrangement, ids, actions, onKey }} onHelp={help} onAnswer={openAnswer} />
            )}
          </>
        )}
        {hasPages && (
          <div className="board-words">
            {small && <p className="board-steps">{steps}</p>}
            <SidesCount
              key={arrangement.sides ?? "none"}
              sides={arrangement.sides ?? null}
              pages={pages.length}
              disabled={!placing}
              onChange={(sides) => actions.change(setSides(sides), "Number of sides written")}
            />
            <FolioWord comment={arrangement.comment} disabled={!placing} onChange={actions.change} />
            <Talk folioId={board.id} page={null} words={board.words} zone={zoneOf} />
          </div>
        )}
      </main>
      {small && !answering.panel && (
        <PhonePad
          {...{ board, pages, arrangement, actions, at, open, placing, add }}
          proposed={suggestion?.places.filter((one) => one.page === page?.id) ?? NONE}
          onConfirm={confirmHere}
          line={fine && page && <LabelLine ref={line} {...{ questions, arrangement, ids, actions, onKey }} onHelp={help} onAnswer={openAnswer} />}
        />
      )}
      {!small && answering.panel}
      {!small && !answering.panel && !hasPages && hasPaper && (
        <aside className="panel board-paper">
          <QuestionPaper assignmentId={assignmentId} />
        </aside>
      )}
      {ready && !small && !answering.panel && (hasPages || !hasPaper) && (
        <ShownPage
          page={page}
          number={at + 1}
          pages={pages.length}
          arrangement={arrangement}
          questions={questions}
          mayAdd={open}
          mayPlace={placing}
          timeZone={zoneOf}
          folioId={board.id}
          words={board.words}
          proposed={suggestion?.places ?? NONE}
          larger={larger}
          onLarger={setLarger}
          now={{
            onConfirm: confirmHere,
            onBegin: actions.beginAt,
            onKey,
            onChange: actions.change,
            onShift: actions.shift,
            onRemove: actions.remove,
            onTakeAgain: takeAgain,
          }}
        />
      )}
      <footer className="board-foot">
        <span>
          <strong>
            {answered} of {of}
          </strong>{" "}
          {small ? "settled" : "questions settled"}{" "}
          {small && saving === "waiting" ? (
            <span className="red board-open" aria-hidden="true">
              No network: kept here
            </span>
          ) : (
            <span className={openPages.length > 0 ? "not-yet board-open" : "board-open"}>
              {openPages.length > 0 && !small && <i className="board-fold" aria-hidden="true" title="Pages with a turned-down corner" />}
              {openPages.length > 0 ? `${count(openPages.length, "page")} not placed` : hasPages && "every page placed"}
            </span>
          )}
        </span>
        <button type="button" className="plain" disabled={past.length === 0} onClick={undo} title={tip(past, "Ctrl Z")}>
          Undo
        </button>
        {!small && steps}
        <SavingWords saving={saving} />
        <span className="board-check">
          <LinkButton first to={`/folios/${board.id}/check`} title="Ctrl Enter">
            Check and hand in
          </LinkButton>
        </span>
      </footer>
      <p className="unseen" aria-live="polite">
        {actions.announcement}
      </p>
      {sheet === "keys" && <KeyList onClose={() => setSheet(null)} />}
      {sheet === "history" && (
        <HistoryList {...{ past, future, times }} zone={zoneOf} onUndo={(steps) => store.undoTo(steps)} onRedo={redo} onClose={() => setSheet(null)} />
      )}
      {sheet === "order" && (
        <OrderDialog {...{ pages, questions, arrangement }} onOrder={actions.order} onClose={() => setSheet(null)} />
      )}
      {sheet === "here" && (
        <PhotographHere
          next={pages.length + coming.length + 1}
          onKeep={(picture) => void queue.addNext(picture, limits)}
          folioId={board.id}
          tells={board.tells_sheets && coming.length === 0}
          onClose={() => setSheet(null)}
        />
      )}
      {sheet === "camera" && <CameraInvitation of={linksOfFolio(board.id)} zone={zoneOf} pages={pages.length} onClose={() => setSheet(null)} />}
      {dragging && <div className="board-drop">Let go anywhere: the files become pages</div>}
    </div>
  );
}

/** What is open and what is odd; worked out anew only when something was done. */
function standing(arrangement: Arrangement, pages: BoardData["pages"], questions: readonly GivenQuestion[]) {
  const placed = questionsByPage(arrangement);
  return {
    openPages: pages.filter((page) => !placed.has(page.id) && !arrangement.loose.includes(page.id)),
    ...settled(arrangement, questions),
    odd: contradictions(arrangement, questions),
  };
}

function tip(steps: readonly string[], keys: string): string {
  return [steps.at(-1), keys].filter(Boolean).join(" · ");
}

/** The server cannot be reached: what is shown, and what still works. */
function WithoutNetwork({ at, zone }: { at: string; zone: string }) {
  return (
    <p className="board-offline" role="status">
      <strong>No network.</strong> This is the board as of {clockTime(at, zone)}. The clock runs on. Pages you add are kept on
      this device and sent by themselves when the network is back.
    </p>
  );
}

function SavingWords({ saving }: { saving: Saving }) {
  const words = {
    saved: "Order and places saved",
    saving: "Saving …",
    waiting: "No network: kept here, saved when it is back",
  };
  return (
    <>
      <span
        className={saving === "waiting" ? "red board-saving" : "soft board-saving"}
        aria-hidden={saving === "waiting"}
      >
        {words[saving]}
      </span>
      {/* Said aloud only where something is amiss: what was done has just been said. */}
      <span className="unseen" aria-live="polite">
        {saving === "waiting" && words.waiting}
      </span>
    </>
  );
}
