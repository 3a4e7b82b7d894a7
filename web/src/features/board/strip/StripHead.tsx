import { useId } from "react";
import { Link } from "react-router";
import { count } from "../../../shared/words";
import type { PageKinds } from "../accepted";
import { ChooseFiles } from "./ChooseFiles";

interface Props {
  assignmentId: number;
  pages: number;
  /** Files that are on their way to being pages. */
  coming: number;
  mayAdd: boolean;
  mayPlace: boolean;
  width: number;
  kinds: PageKinds;
  onAdd: (files: File[]) => void;
  onKey: (event: React.KeyboardEvent) => void;
  onOrder: () => void;
  onCamera: () => void;
  /** By this device's own camera. */
  onHere: () => void;
  onWidth: (px: number) => void;
}

export const [NARROWEST_PX, WIDEST_PX] = [44, 420];

/** At the head of the strip: how pages come, their order, their size. */
export function StripHead(props: Props) {
  const { pages, coming, mayAdd, onAdd, width, onWidth } = props;
  const sizeId = useId();
  return (
    <div className="strip-head">
      <p className="soft">
        {pages + coming === 0 ? "No pages yet" : pages > 0 && count(pages, "page")}
        {coming > 0 && `${pages > 0 ? " · " : ""}${coming} coming`}
      </p>
      {mayAdd ? (
        <>
          <ChooseFiles className="button button-small strip-add" kinds={props.kinds} onFiles={onAdd} onKey={props.onKey}>
            Add pages
          </ChooseFiles>
          <p className="soft strip-hint">or drop or paste them</p>
          {props.kinds !== "pdf" && <p className="strip-photograph">
            Photograph{" "}
            <button type="button" className="plain" aria-label="Photograph by phone" onClick={props.onCamera}>
              by phone
            </button>{" "}
            or{" "}
            <button type="button" className="plain" aria-label="Photograph here" onClick={props.onHere}>
              here
            </button>
          </p>}
        </>
      ) : (
        <p className="soft">Closed for pages</p>
      )}
      {pages > 1 && props.mayPlace && (
        <button type="button" className="plain" onClick={props.onOrder}>
          Put in order …
        </button>
      )}
      <Link to={`/assignments/${props.assignmentId}`} className="strip-brief">
        Brief and questions
      </Link>
      <label htmlFor={sizeId} className="soft strip-size">
        Size
        <input
          id={sizeId}
          type="range"
          min={NARROWEST_PX}
          max={WIDEST_PX}
          value={width}
          onChange={(event) => onWidth(Number(event.target.value))}
        />
      </label>
    </div>
  );
}
