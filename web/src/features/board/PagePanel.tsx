import { type ComponentProps, memo } from "react";
import type { Schemas } from "../../shared/api/client";
import { clockTime } from "../../shared/time";
import { adviceOf } from "./advice";
import { setLoose, takeOff } from "./arrangement";
import { inReadingOrder } from "./ordering";
import { PageAdvice } from "./PageAdvice";
import { PagePicture } from "./PagePicture";
import "./PagePanel.css";
import { PageTools } from "./PageTools";
import { PageWord } from "./WordField";

interface Props extends ComponentProps<typeof PageTools> {
  questions: Schemas["QuestionOut"][];
  timeZone: string;
  larger: boolean;
  onLarger: (larger: boolean) => void;
  onBegin: (label: string, page: number, top: number | null) => void;
  onKey: (event: React.KeyboardEvent) => boolean;
}

/** The chosen page, large, with its advice and what can be done to it. */
export const PagePanel = memo(function PagePanel(props: Props) {
  const { page, number, arrangement, questions, onChange, timeZone, larger, mayPlace } = props;
  const labels = inReadingOrder(arrangement, page.id, questions);
  const facts = [
    page.of > 1 ? `${page.file_name}, page ${page.index + 1} of ${page.of}` : page.file_name,
    `safe since ${clockTime(page.arrived, timeZone, true)}`,
    page.dpi ? `${Math.round(page.dpi)} dpi` : "",
  ];
  return (
    <aside className={larger ? "panel panel-larger" : "panel"} aria-label={`Page ${number}`}>
      <h2>Page {number}</h2>
      <p className="soft panel-facts">{facts.filter(Boolean).join(" · ")}</p>
      <PagePicture
        {...{ page, number, labels, arrangement, mayPlace, larger }}
        advice={adviceOf(page, arrangement)}
        onLarger={props.onLarger}
        onBegin={(label, top) => props.onBegin(label, page.id, top)}
        onKey={props.onKey}
      />
      <ul className="panel-labels" aria-label={`Placed on page ${number}`}>
        {labels.map((label) => (
          <li key={label}>
            {label}
            <button
              type="button"
              aria-label={`Take ${label} off page ${number}`}
              disabled={!mayPlace}
              onClick={() => onChange(takeOff(label, [page.id]), `${label} taken off page ${number}`)}
            >
              ×
            </button>
          </li>
        ))}
        {labels.length === 0 && (
          <li className="panel-none">
            <LooseSwitch page={page.id} number={number} arrangement={arrangement} onChange={onChange} />
          </li>
        )}
      </ul>
      <PageAdvice {...{ page, number, arrangement, onChange }} />
      <PageWord page={page.id} {...{ number, arrangement, onChange }} disabled={!mayPlace} />
      <PageTools key={page.id} {...props} />
    </aside>
  );
});

type LooseProps = Pick<Props, "number" | "arrangement" | "onChange"> & { page: number };

function LooseSwitch({ page, number, arrangement, onChange }: LooseProps) {
  const loose = arrangement.loose.includes(page);
  return (
    <>
      <span className={loose ? "soft" : "red"}>{loose ? "Loose page: answers no question" : "Nothing placed yet"}</span>
      <button
        type="button"
        className="plain"
        onClick={() => onChange(setLoose(page, !loose), `Page ${number} is ${loose ? "no loose page any more" : "a loose page"}`)}
      >
        {loose ? "not loose" : "loose page"}
      </button>
    </>
  );
}
