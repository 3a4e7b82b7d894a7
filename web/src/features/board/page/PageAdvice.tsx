import type { Schemas } from "../../../shared/api/client";
import { adviceOf } from "../../../folio/advice";
import { type Arrangement, type Change, pagesOf, setDismissed, together } from "../../../folio/arrangement";

interface Props {
  page: Schemas["PageOut"];
  number: number;
  arrangement: Arrangement;
  onChange: (change: Change, words: string) => void;
}

/** What the page check saw and what to do about it, weightiest first. Each can be waved away, and brought back. */
export function PageAdvice({ page, number, arrangement, onChange }: Props) {
  const dismissed = arrangement.dismissed[page.id] ?? [];
  const pages = pagesOf(arrangement);
  return (
    <>
      {page.state !== "failed" && page.message && (
        <p className="panel-advice" role="alert">
          <i aria-hidden="true" />
          <span>{page.message}</span>
        </p>
      )}
      <ul className="panel-advices" aria-label={`Advice for page ${number}`}>
        {adviceOf(page, arrangement).map((one) => (
          <li key={one.code} className="panel-advice">
            <i aria-hidden="true" />
            <span>
              <strong>{one.seen}</strong>
              {one.other !== null && ` (page ${pages.indexOf(one.other) + 1})`} {one.do}
            </span>
            <button
              type="button"
              className="plain"
              aria-label={`All right as it is: ${one.seen}`}
              onClick={() => onChange(setDismissed(page.id, one.code, true), `Advice on page ${number} waved away`)}
            >
              All right
            </button>
          </li>
        ))}
      </ul>
      {dismissed.length > 0 && (
        <p className="soft panel-waved">
          {dismissed.length} waved away{" "}
          <button
            type="button"
            className="plain"
            onClick={() =>
              onChange(
                together(...dismissed.map((code) => setDismissed(page.id, code, false))),
                `Advice on page ${number} shown again`,
              )
            }
          >
            show again
          </button>
        </p>
      )}
    </>
  );
}
