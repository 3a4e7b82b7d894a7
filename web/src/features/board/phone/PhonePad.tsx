import type { ReactNode } from "react";
import type { Parts } from "../parts";
import { CameraButton } from "./AddByPhone";
import { PageProposals } from "../proposals/PageProposals";
import type { Place } from "../../../folio/useSuggestion";
import { takesPages } from "../../../folio/answers/content";
import { LabelPad } from "./LabelPad";

interface Props extends Pick<Parts, "board" | "pages" | "arrangement" | "actions" | "at" | "open" | "placing" | "add"> {
  /** The line to type on, where there are keys: a small window, or one that is much enlarged. */
  line: ReactNode;
  /** For the page that is shown. */
  proposed: readonly Place[];
  onConfirm: () => void;
}

/** What never leaves a phone's screen: from page to page, the camera, and the questions under the thumb. */
export function PhonePad({ board, pages, arrangement, actions, at, open, placing, add, line, proposed, onConfirm }: Props) {
  const page = pages[at];
  if (!page) return null;
  return (
    <section className="phone-pad" aria-label={`Questions of page ${at + 1}`}>
      <div className="phone-walk">
        <button type="button" className="phone-turn" disabled={at === 0} onClick={() => actions.walk(at - 1)} aria-label="← Before">
          ←
        </button>
        <h2>
          Page {at + 1} <span className="soft">of {pages.length}</span>
        </h2>
        <button type="button" className="phone-turn" disabled={at === pages.length - 1} onClick={() => actions.walk(at + 1)}>
          Next →
        </button>
        {open && board.limits.kinds !== "pdf" && <CameraButton first={false} add={add} />}
      </div>
      {line}
      {placing && <PageProposals page={page} places={proposed} questions={board.questions} onConfirm={onConfirm} />}
      <LabelPad
        questions={board.questions.filter(takesPages)}
        arrangement={arrangement}
        page={page.id}
        number={at + 1}
        disabled={!placing}
        onToggle={(question, on) => actions.place([question], [page.id], on)}
      />
    </section>
  );
}
