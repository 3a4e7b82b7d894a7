import { Link } from "react-router";
import { usePictureInput } from "./page/usePictureInput";
import { Button } from "../../shared/ui/Button";
import type { BoardData } from "../../folio/useBoard";
import { dayAndTime } from "../../shared/time";

interface AskedAgainProps {
  board: BoardData;
  /** The pages in their order. */
  ids: readonly number[];
  onTakeAgain: (picture: File, page: number) => void;
}

/** What staff ask for again, why, until when, and the way to the page. */
export function AskedAgain({ board, ids, onTakeAgain }: AskedAgainProps) {
  const newest = board.editions.find((one) => one.taken_back_at === null);
  if (board.askings.length === 0) return null;
  return (
    <div className="board-closed" role="status">
      {board.askings.map((one) => {
        const number = ids.indexOf(one.page ?? 0) + 1;
        const replaced = one.page !== null && number === 0;
        return (
          <p key={one.id}>
            <strong className="red">{WANTED[one.what](one.number)}</strong> “{one.reason}” <span className="soft">{one.by}</span>. Until{" "}
            {dayAndTime(one.until, board.assignment.time_zone)}.{" "}
            {number > 0 && (
              <>
                <AnotherPicture number={number} onPicture={(picture) => onTakeAgain(picture, one.page ?? 0)} /> <Link to={`?page=${number}`}>See page {number}</Link>
              </>
            )}
            {replaced && (
              <>
                It is taken again: <Link to={`/folios/${board.id}/check`}>check and hand in</Link>.
              </>
            )}
          </p>
        );
      })}
      <p className="soft">
        {newest ? `Edition ${newest.number} stays and counts until you hand in again.` : "Nothing is handed in yet."}
      </p>
    </div>
  );
}

function AnotherPicture({ number, onPicture }: { number: number; onPicture: (picture: File) => void }) {
  const { field, ask } = usePictureInput(`The picture that was asked for, for page ${number}`, onPicture);
  return (
    <>
      <Button small onClick={ask}>
        Take page {number} again
      </Button>
      {field}
    </>
  );
}

const WANTED: Record<BoardData["askings"][number]["what"], (number: number | null) => string> = {
  page: (number) => `Page ${number} is asked for again:`,
  all: () => "All of your work is asked for again:",
  place: () => "Please say which pages answer which question:",
};
