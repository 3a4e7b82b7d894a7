import { type InkShape, UNITS } from "./ink";
import { InkShapes, inkWords } from "./InkShapes";
import "./CutPicture.css";

/** Ink over the whole picture of a page. */
export function InkOver({ page, ink }: { page: { number: number; width: number; height: number }; ink: readonly InkShape[] }) {
  const ratio = page.width > 0 ? page.height / page.width : 1.414;
  return (
    <svg className="cut-ink ink-over" viewBox={`0 0 ${UNITS} ${UNITS * ratio}`} preserveAspectRatio="none" role="img" aria-label={`On page ${page.number}: ${inkWords(ink)}`}>
      <InkShapes ink={ink} ratio={ratio} />
    </svg>
  );
}
