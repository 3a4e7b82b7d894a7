import type { ComponentProps } from "react";
import type { Schemas } from "../../shared/api/client";
import { clockTime } from "../../shared/time";
import { adviceOf } from "./advice";
import { labelsOn, setLoose, takeOff } from "./arrangement";
import { PageAdvice } from "./PageAdvice";
import { PagePicture } from "./PagePicture";
import { PageTools } from "./PageTools";
import "./PagePanel.css";

interface Props extends ComponentProps<typeof PageTools> {
  questions: Schemas["QuestionOut"][];
  timeZone: string;
}

/** The chosen page, large, with its advice and what can be done to it. */
export function PagePanel(props: Props) {
  const { page, number, arrangement, questions, onChange, timeZone } = props;
  const on = labelsOn(arrangement, page.id);
  const labels = questions.map((one) => one.label).filter((label) => on.includes(label));
  const facts = [
    page.of > 1 ? `${page.file_name}, page ${page.index + 1} of ${page.of}` : page.file_name,
    `safe since ${clockTime(page.arrived, timeZone, true)}`,
    page.dpi ? `${Math.round(page.dpi)} dpi` : "",
  ];
  return (
    <aside className="panel" aria-label={`Page ${number}`}>
      <h2>Page {number}</h2>
      <p className="soft panel-facts">{facts.filter(Boolean).join(" · ")}</p>
      <PagePicture {...{ page, number, labels, arrangement }} advice={adviceOf(page, arrangement)} />
      <ul className="panel-labels" aria-label={`Placed on page ${number}`}>
        {labels.map((label) => (
          <li key={label}>
            {label}
            <button
              type="button"
              aria-label={`Take ${label} off page ${number}`}
              onClick={() => onChange(takeOff(label, [page.id]))}
            >
              ×
            </button>
          </li>
        ))}
        {labels.length === 0 && (
          <li className="panel-none">
            <LooseSwitch page={page.id} arrangement={arrangement} onChange={onChange} />
          </li>
        )}
      </ul>
      <PageAdvice {...{ page, number, arrangement, onChange }} />
      <PageTools {...props} />
    </aside>
  );
}

function LooseSwitch({ page, arrangement, onChange }: Pick<Props, "arrangement" | "onChange"> & { page: number }) {
  const loose = arrangement.loose.includes(page);
  return (
    <>
      <span className={loose ? "soft" : "red"}>{loose ? "Loose page: answers no question" : "Nothing placed yet"}</span>
      <button type="button" className="plain" onClick={() => onChange(setLoose(page, !loose))}>
        {loose ? "not loose" : "loose page"}
      </button>
    </>
  );
}
