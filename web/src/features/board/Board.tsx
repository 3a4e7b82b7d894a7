import { Button } from "antd";
import { useCallback, useEffect, useRef, useState } from "react";
import { Link, useParams } from "react-router";
import { Masthead } from "../../shared/Masthead";
import { safety, useUploads } from "../../shared/sending/useUploads";
import { clockTime, dayAndTime } from "../../shared/time";
import { TimeRail } from "../../shared/TimeRail";
import { Trouble } from "../../shared/Trouble";
import { count } from "../../shared/words";
import { Arrivals } from "./Arrivals";
import type { Saving } from "./ArrangementStore";
import { isSettled, labelsOn, move, pagesOf, place, setLoose, setRemoved } from "./arrangement";
import "./Board.css";
import { LabelLine } from "./LabelLine";
import { PagePanel } from "./PagePanel";
import { Ribbons } from "./Ribbons";
import { Strip } from "./Strip";
import { useArrangement } from "./useArrangement";
import { useChosenPage } from "./useChosenPage";
import { type BoardData, mayAddPages, mayPlace, useBoard } from "./useBoard";
import { useDroppedFiles } from "./useDroppedFiles";
import { useGivenTime } from "./useGivenTime";

export default function Board() {
  const folioId = Number(useParams().folioId);
  const board = useBoard(folioId);
  if (board.data) return <LoadedBoard key={folioId} board={board.data} />;
  return (
    <div className="screen">
      <Masthead title="" />
      {board.isError && <Trouble error={board.error} onRetry={() => void board.refetch()} />}
    </div>
  );
}

function LoadedBoard({ board }: { board: BoardData }) {
  const { arrangement, saving, mayUndo, mayRedo, store } = useArrangement(board);
  const { uploads, queue } = useUploads(board.id, board.window);
  const { limits } = board;
  const open = mayAddPages(board.window.phase);
  const add = useCallback((files: File[]) => void queue.add(files, limits), [queue, limits]);
  const dragging = useDroppedFiles(add, open);
  useGivenTime(board);
  const [chosen, choose] = useChosenPage(board.id);
  const [said, say] = useState("");
  const line = useRef<HTMLInputElement>(null);

  const byId = new Map(board.pages.map((page) => [page.id, page]));
  const pages = pagesOf(arrangement).flatMap((id) => byId.get(id) ?? []);
  const retaken = uploads.find((one) => one.insteadOf !== null && one.insteadOf === chosen)?.pageId;
  const at = Math.max(0, pages.findIndex((page) => page.id === chosen || page.id === retaken));
  const page = pages[at];
  const coming = uploads.filter((one) => one.state !== "refused" && (one.pageId === null || !byId.has(one.pageId)));

  const walk = (to: number) => {
    const target = pages[Math.min(Math.max(to, 0), pages.length - 1)];
    if (target) choose(target.id);
  };
  const shift = (by: number) => {
    const to = pages[at + by];
    if (!page || !to) return;
    store.change(move(page.id, to.id));
    choose(page.id);
    say(`Page ${at + 1} moved to ${at + by + 1}`);
  };
  const remove = () => {
    if (!page) return;
    walk(at === pages.length - 1 ? at - 1 : at + 1);
    store.change(setRemoved(page.id, true));
    say(`Page ${at + 1} removed`);
  };
  const loosen = () => page && store.change(setLoose(page.id, !arrangement.loose.includes(page.id)));

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== "z") return;
      event.preventDefault();
      if (event.shiftKey) store.redo();
      else store.undo();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [store]);

  /** Keys of the strip and of the empty label line. Returns whether the key was one of them. */
  const onKey = (event: React.KeyboardEvent): boolean => {
    const keys: Record<string, () => void> = {
      ArrowLeft: () => (event.altKey ? shift(-1) : walk(at - 1)),
      ArrowRight: () => (event.altKey ? shift(1) : walk(at + 1)),
      ".": () => loosen(),
      Delete: remove,
    };
    const action = keys[event.key];
    if (!action) return false;
    event.preventDefault();
    action();
    return true;
  };

  const openPages = pages.filter((one) => labelsOn(arrangement, one.id).length === 0 && !arrangement.loose.includes(one.id));
  const settled = board.questions.filter((one) => isSettled(arrangement, one.label)).length;
  return (
    <div className="board">
      <header className="board-top">
        <Masthead title={board.assignment.title} course={board.assignment.course} />
        <TimeRail sitting={board} safe={safety(pages.length, uploads)} />
      </header>
      <main className="board-table">
        <h1 className="unseen">Board</h1>
        <Closed board={board} />
        {board.keptAt && <WithoutNetwork at={board.keptAt} zone={board.assignment.time_zone} />}
        <Arrivals
          uploads={uploads}
          pages={board.pages}
          removed={arrangement.removed.flatMap((id) => byId.get(id) ?? [])}
          onDismiss={(key) => queue.dismiss(key)}
          onRestore={(id) => {
            store.change(setRemoved(id, false));
            choose(id);
          }}
        />
        {pages.length + coming.length === 0 && open && <Empty timed={board.window.timed} />}
        <div className="board-columns">
          <Strip
            assignmentId={board.assignment.id}
            timeZone={board.assignment.time_zone}
            questions={board.questions}
            pages={pages}
            coming={coming}
            arrangement={arrangement}
            chosen={page?.id ?? null}
            mayAdd={open}
            onAdd={add}
            onChoose={(id, byMouse) => {
              choose(id);
              if (byMouse) line.current?.focus();
            }}
            onMove={(id, to) => {
              store.change(move(id, to));
              choose(id);
              say(`Page moved to ${pages.findIndex((one) => one.id === to) + 1}`);
            }}
            onKey={onKey}
          >
            <Ribbons
              questions={board.questions}
              pages={pages.map((one) => one.id)}
              arrangement={arrangement}
              onChange={(wanted) => store.change(wanted)}
            />
          </Strip>
        </div>
        {page && (
          <LabelLine
            ref={line}
            assignmentId={board.assignment.id}
            questions={board.questions}
            pageNumber={at + 1}
            onKey={onKey}
            onPlace={(labels) => {
              store.change(place(labels, [page.id]));
              say(`${labels.join(", ")} placed on page ${at + 1}`);
              walk(at + 1);
            }}
          />
        )}
      </main>
      {page && (
        <PagePanel
          key={page.id}
          page={page}
          number={at + 1}
          arrangement={arrangement}
          questions={board.questions}
          mayAdd={open}
          mayPlace={mayPlace(board.window.phase)}
          isFirst={at === 0}
          isLast={at === pages.length - 1}
          timeZone={board.assignment.time_zone}
          onChange={(wanted) => store.change(wanted)}
          onShift={shift}
          onRemove={remove}
          onTakeAgain={(picture) => {
            choose(page.id);
            void queue.add([picture], limits, page.id);
          }}
        />
      )}
      <footer className="board-foot">
        <span>
          <strong>
            {settled} of {board.questions.length}
          </strong>{" "}
          questions settled
        </span>
        <span className={openPages.length > 0 ? "red" : ""}>
          {openPages.length > 0 ? `${count(openPages.length, "page")} open` : "no page open"}
        </span>
        <button type="button" className="plain" disabled={!mayUndo} onClick={() => store.undo()} title="Ctrl Z">
          Undo
        </button>
        <button type="button" className="plain" disabled={!mayRedo} onClick={() => store.redo()} title="Ctrl Shift Z">
          Redo
        </button>
        <SavingWords saving={saving} />
        <Link className="board-check" to={`/folios/${board.id}/check`} tabIndex={-1}>
          <Button type="primary">Check and hand in</Button>
        </Link>
      </footer>
      <p className="unseen" aria-live="polite">
        {said}
      </p>
      {dragging && <div className="board-drop">Let go anywhere: the files become pages</div>}
    </div>
  );
}

/** After the close: what became of the pages, and what can still be done. */
function Closed({ board }: { board: BoardData }) {
  const { phase, closes, placing_ends } = board.window;
  if (phase !== "placing" && phase !== "closed") return null;
  const zone = board.assignment.time_zone;
  const newest = board.editions[0];
  return (
    <p className="board-closed" role="status">
      <strong>Closed for pages {dayAndTime(closes, zone)}.</strong>{" "}
      {newest && (
        <>
          {newest.automatic ? "What had arrived was handed in by itself" : "Your work is handed in"}:{" "}
          <Link to={`/folios/${board.id}/editions/${newest.number}`}>receipt of edition {newest.number}</Link>.{" "}
        </>
      )}
      {!newest && board.pages.length > 0 && "What had arrived is being handed in by itself. "}
      {!newest && board.pages.length === 0 && "No page had arrived, so nothing was handed in. "}
      {phase === "placing" && `Pages can be put in order and placed until ${dayAndTime(placing_ends, zone)}; nothing else.`}
      {phase === "closed" && "Nothing can be changed any more."}
    </p>
  );
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

/** What to do, while there is nothing to look at. */
function Empty({ timed }: { timed: boolean }) {
  return (
    <section className="board-empty">
      <h2>Lay your pages here</h2>
      <p>
        {timed && "Write first; the clock above shows how long. Then photograph"}
        {!timed && "Photograph"} each sheet from straight above and drop all the pictures anywhere on this screen at once.
        JPEG, PNG, HEIC, AVIF, WebP, TIFF and PDF are fine.
      </p>
      <p className="soft">Each page says when it is safe on the server. Order and questions can be set at any time.</p>
    </section>
  );
}

function SavingWords({ saving }: { saving: Saving }) {
  const words = {
    saved: "Order and places saved",
    saving: "Saving …",
    waiting: "No network: kept here, saved when it is back",
  };
  return (
    <span className={saving === "waiting" ? "red" : saving === "saved" ? "soft board-saved" : "soft"} role="status">
      {words[saving]}
    </span>
  );
}
