import { Link } from "react-router";
import { type BoardData, mayAddPages } from "../../folio/useBoard";
import { dayAndTime } from "../../shared/time";

interface WhatCountsProps {
  board: BoardData;
  isOpen: boolean;
  /** As it is known here at once: were it asked for, this line would go a moment later and move the buttons below it. */
  differs: boolean;
}

/** What counts of the work just now, where that is not plain: something is open, it was taken back, or the time is up. */
export function WhatCounts({ board, isOpen, differs }: WhatCountsProps) {
  return (
    <>
      {isOpen && !differs && <PlacedLater board={board} />}
      <Closed board={board} />
      <TakenBack board={board} />
    </>
  );
}

/** Handed in, with something open: until when it can be placed. */
function PlacedLater({ board }: { board: BoardData }) {
  const newest = board.editions[0];
  if (!newest || newest.taken_back_at || !mayAddPages(board.window.phase)) return null;
  const { closes, placing_ends: placingEnds, asked_until: askedUntil } = board.window;
  const last = Math.max(...[closes, placingEnds, askedUntil].flatMap((one) => (one ? [Date.parse(one)] : [])));
  return (
    <p className="board-closed" role="status">
      Edition {newest.number} is handed in and counts. What is open can be placed until {dayAndTime(last, board.assignment.time_zone)}, and goes in by
      itself then.
    </p>
  );
}

/** What was handed in was taken back, and nothing was handed in since. */
function TakenBack({ board }: { board: BoardData }) {
  const newest = board.editions[0];
  if (!newest?.taken_back_at || !mayAddPages(board.window.phase)) return null;
  return (
    <p className="board-closed" role="status">
      <strong className="red">Nothing is handed in:</strong> you took back edition {newest.number}.{" "}
      <Link to={`/folios/${board.id}/check`}>Check and hand in</Link>. At the close, {dayAndTime(board.window.closes, board.assignment.time_zone)},
      what is here is handed in by itself.
    </p>
  );
}

/** After the close: what became of the pages, and what can still be done. */
function Closed({ board }: { board: BoardData }) {
  const { phase, closes, placing_ends } = board.window;
  if (phase !== "placing" && phase !== "closed") return null;
  const zone = board.assignment.time_zone;
  const newest = board.editions.find((one) => one.taken_back_at === null);
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
