import type { Schemas } from "../../shared/api/client";
import { clockTime } from "../../shared/time";
import { type Arrangement, type Change, labelsOn, setLoose, takeOff } from "./arrangement";
import "./PagePanel.css";

interface Props {
  page: Schemas["PageOut"];
  number: number;
  arrangement: Arrangement;
  questions: Schemas["QuestionOut"][];
  mayChange: boolean;
  isFirst: boolean;
  isLast: boolean;
  timeZone: string;
  onChange: (change: Change) => void;
  onShift: (by: 1 | -1) => void;
  onRemove: () => void;
  onTurn: (by: 90 | 270) => void;
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
      <div className="panel-picture">
        <div className="panel-sheet">
          {page.image ? (
            <img src={page.image} width={page.width} height={page.height} alt={`Page ${number} as it will be read`} />
          ) : (
            <p className="soft panel-waiting">Safe on the server. Being straightened …</p>
          )}
          {page.image && <Flags page={page.id} labels={labels} arrangement={arrangement} />}
        </div>
      </div>
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
      {page.advice.map((one) => (
        <p key={one.code} className="panel-advice">
          <i aria-hidden="true" />
          <span>
            <strong>{one.seen}</strong> {one.do}
          </span>
        </p>
      ))}
      <Tools {...props} />
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

function Flags({ page, labels, arrangement }: { page: number; labels: string[]; arrangement: Arrangement }) {
  const tops = labels.flatMap((label) => {
    const top = arrangement.placements[label]?.find((spot) => spot.page === page)?.top;
    return top === null || top === undefined ? [] : [{ label, top }];
  });
  return tops.map(({ label, top }) => (
    <span key={label} className="panel-flag" style={{ top: `${top * 100}%` }}>
      {label}
    </span>
  ));
}

function Tools({ page, mayChange, isFirst, isLast, onShift, onRemove, onTurn }: Props) {
  return (
    <div className="panel-tools">
      <button type="button" className="plain" disabled={!mayChange} onClick={() => onTurn(270)}>
        Turn left
      </button>
      <button type="button" className="plain" disabled={!mayChange} onClick={() => onTurn(90)}>
        Turn right
      </button>
      <button type="button" className="plain" disabled={isFirst} onClick={() => onShift(-1)} title="Alt ←">
        Earlier
      </button>
      <button type="button" className="plain" disabled={isLast} onClick={() => onShift(1)} title="Alt →">
        Later
      </button>
      <button type="button" className="plain" disabled={!mayChange} onClick={onRemove} title="Delete">
        Remove
      </button>
      <a href={`/api/originals/${page.original_id}/file`} download>
        Original
      </a>
    </div>
  );
}
