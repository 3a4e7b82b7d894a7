import { useState } from "react";
import type { Schemas } from "../../../shared/api/client";
import { type Arrangement, type Change, correct, pagesOf, recipeOf } from "../../../folio/arrangement";
import { lazily } from "../../../shared/ui/later";
import { usePictureInput } from "./usePictureInput";

const TONES = [
  { value: "clean", label: "clean paper" },
  { value: "photo", label: "as photographed" },
  { value: "ink", label: "ink only" },
] as const;
const CornerEditor = lazily(async () => (await import("./CornerEditor")).CornerEditor);
const Choice = lazily(async () => (await import("../../../shared/ui/library")).Choice<(typeof TONES)[number]["value"]>);

interface Props {
  page: Schemas["PageOut"];
  number: number;
  arrangement: Arrangement;
  /** Whether pages may still come and go. */
  mayAdd: boolean;
  /** Whether order, places and corrections may still change. */
  mayPlace: boolean;
  isFirst: boolean;
  isLast: boolean;
  onChange: (change: Change, words: string) => void;
  onShift: (by: 1 | -1) => void;
  onRemove: () => void;
  onTakeAgain: (picture: File) => void;
}

/** What can be done to the chosen page. Every correction is a recipe: the original stays, undo works. */
export function PageTools(props: Props) {
  const { page, number, arrangement, mayAdd, mayPlace, isFirst, isLast, onChange, onShift, onRemove } = props;
  const [editing, setEditing] = useState<number | null>(null); // the page whose corners are moved
  const again = usePictureInput(`New picture for page ${number}`, props.onTakeAgain);
  const turnIn = (a: Arrangement) => recipeOf(a, page.id).turn ?? page.found?.turn ?? 0;
  /** From how it lies when this is done: this panel may be drawn a moment later than the second of two quick taps. */
  const turn = (by: 90 | 270) =>
    onChange(
      (before) => correct([page.id], { turn: ((turnIn(before) + by) % 360) as 0 | 90 | 180 | 270 })(before),
      `Page ${number} turned ${by === 90 ? "right" : "left"}`,
    );
  return (
    <div className="panel-tools">
      <Tone {...{ page, number, arrangement, mayPlace, onChange }} />
      <span className="tool-group" role="group" aria-label={`How page ${number} lies`}>
        <button type="button" disabled={!mayPlace} onClick={() => turn(270)}>
          Turn left
        </button>
        <button type="button" disabled={!mayPlace} onClick={() => turn(90)}>
          Turn right
        </button>
        <button type="button" disabled={!mayPlace || !page.found || !page.source} onClick={() => setEditing(page.id)}>
          Corners
        </button>
      </span>
      <span className="tool-group" role="group" aria-label={`Place of page ${number}`}>
        <button type="button" disabled={isFirst} onClick={() => onShift(-1)} title="Alt ←">
          Earlier
        </button>
        <button type="button" disabled={isLast} onClick={() => onShift(1)} title="Alt →">
          Later
        </button>
      </span>
      <span className="tool-group" role="group" aria-label={`Picture of page ${number}`}>
        <button type="button" disabled={!mayAdd} onClick={again.ask}>
          Take again
        </button>
        <a className="tool" href={`/api/originals/${page.original_id}/file`} download>
          Original<span className="unseen"> file of page {number}</span>
        </a>
      </span>
      {again.field}
      <button type="button" className="plain tool-remove" disabled={!mayAdd} onClick={onRemove} title="Delete">
        Remove
      </button>
      {editing === page.id && page.found && (
        <CornerEditor
          page={page}
          found={{ ...page.found, turn: turnIn(arrangement) }}
          number={number}
          onCancel={() => setEditing(null)}
          onDone={(corners) => {
            onChange(correct([page.id], { corners }), `Corners of page ${number}`);
            setEditing(null);
          }}
        />
      )}
    </div>
  );
}

function Tone({
  page,
  number,
  arrangement,
  mayPlace,
  onChange,
}: Pick<Props, "page" | "number" | "arrangement" | "mayPlace" | "onChange">) {
  const { tone } = recipeOf(arrangement, page.id);
  const pages = pagesOf(arrangement);
  const same = pages.every((other) => recipeOf(arrangement, other).tone === tone);
  return (
    <span className="panel-tone">
      <span aria-hidden="true">Tone</span>
      <Choice
        label={`Tone of page ${number}`}
        value={tone}
        options={TONES}
        disabled={!mayPlace}
        onChange={(chosen) => onChange(correct([page.id], { tone: chosen }), `Tone of page ${number}`)}
        meanwhile={<span>{TONES.find((one) => one.value === tone)?.label}</span>}
      />
      {!same && (
        <button type="button" className="plain" disabled={!mayPlace} onClick={() => onChange(correct(pages, { tone }), "Tone of all pages")}>
          for all pages
        </button>
      )}
    </span>
  );
}
