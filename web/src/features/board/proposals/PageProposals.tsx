import type { Schemas } from "../../../shared/api/client";
import { labelOf } from "../../../folio/labelWords";
import "./PageProposals.css";
import type { Place } from "../../../folio/useSuggestion";

interface Props {
  page: Schemas["PageOut"];
  places: readonly Place[];
  questions: Schemas["QuestionOut"][];
  onConfirm: () => void;
}

/** What is proposed for one page, each with what was read and where. */
export function PageProposals({ page, places, questions, onConfirm }: Props) {
  if (places.length === 0) return null;
  return (
    <section className="page-proposals" aria-label="Proposed for this page">
      <ul>
        {places.map((one) => (
          <li key={one.question}>
            <strong>{labelOf(one.question, questions)}</strong>
            {one.reason ? <CutOut page={page} reason={one.reason} /> : <span className="soft">runs on</span>}
            <span className="soft">
              {one.reason && `reads ${one.reason.says} · `}
              {Math.round(Math.min(0.99, one.confidence) * 100)} %
            </span>
          </li>
        ))}
      </ul>
      <button type="button" className="button button-small" onClick={onConfirm}>
        Confirm this page <kbd className="key">Y</kbd>
      </button>
    </section>
  );
}

const CUT_HEIGHT_PX = 26;
const AROUND = 0.6; // of the box's height, on each side

/** The piece of the page that was read. */
function CutOut({ page, reason }: { page: Schemas["PageOut"]; reason: Schemas["ReasonOut"] }) {
  const { left, top, width, height, says } = reason;
  const around = height * AROUND;
  const tall = height + 2 * around;
  const scale = CUT_HEIGHT_PX / (tall * page.height);
  const wide = Math.min(110, (width * page.width + 2 * around * page.height) * scale);
  return (
    <span
      className="page-cut"
      role="img"
      aria-label={`The piece of the page that reads ${says}`}
      style={{
        width: wide,
        height: CUT_HEIGHT_PX,
        backgroundImage: `url("${page.image}")`,
        backgroundSize: `${page.width * scale}px ${page.height * scale}px`,
        backgroundPosition: `${-(left * page.width - around * page.height) * scale}px ${-(top - around) * page.height * scale}px`,
      }}
    />
  );
}
