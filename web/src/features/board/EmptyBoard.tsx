import { useMedia } from "../../shared/useMedia";
import type { PageKinds } from "./accepted";
import { ChooseFiles } from "./strip/ChooseFiles";

/** What to do, while there is nothing to look at. */
export function EmptyBoard({ timed, kinds, onAdd }: { timed: boolean; kinds: PageKinds; onAdd: (files: File[]) => void }) {
  const drops = useMedia("(pointer: fine)"); // nothing can be dropped by a finger
  const begins = (words: string) => (timed ? `Write first; the clock above shows how long. Then ${words}` : `${words[0]?.toUpperCase()}${words.slice(1)}`);
  return (
    <section className="board-empty">
      {/* The whole field opens the chooser: the button's own label is stretched over it. */}
      <ChooseFiles className="board-empty-add" label="Files to lay here" kinds={kinds} onFiles={onAdd}>
        <h2>Lay your pages here</h2>
      </ChooseFiles>
      {kinds === "pdf" ? (
        <p>{begins(drops ? "drop your PDF anywhere on this screen." : "choose your PDF here.")}</p>
      ) : (
        <p>
          {begins("photograph each sheet from straight above")}
          {drops ? " and drop all the pictures anywhere on this screen at once" : ", one after another, or choose pictures here that were taken before"}. JPEG,
          PNG, HEIC, AVIF, WebP{kinds === "any" ? ", TIFF and PDF" : " and TIFF"} are fine.
        </p>
      )}
      <p className="soft">Each page says when it is safe on the server. Order and questions can be set at any time.</p>
    </section>
  );
}
