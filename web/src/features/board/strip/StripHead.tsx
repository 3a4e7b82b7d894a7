import { useId, useRef } from "react";
import { Link } from "react-router";
import { count } from "../../../shared/words";
import { ACCEPTED } from "../accepted";

interface Props {
  assignmentId: number;
  pages: number;
  mayAdd: boolean;
  mayPlace: boolean;
  width: number;
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
  const { pages, mayAdd, onAdd, width, onWidth } = props;
  const files = useRef<HTMLInputElement>(null);
  const sizeId = useId();
  return (
    <div className="strip-head">
      <p className="soft">{pages === 0 ? "No pages yet" : count(pages, "page")}</p>
      {mayAdd ? (
        <>
          <button type="button" className="plain strip-add" onClick={() => files.current?.click()} onKeyDown={props.onKey}>
            Add pages
          </button>
          <input
            ref={files}
            type="file"
            multiple
            hidden
            accept={ACCEPTED}
            aria-label="Files to add as pages"
            onChange={(event) => {
              onAdd([...(event.target.files ?? [])]);
              event.target.value = "";
            }}
          />
          <p className="soft strip-hint">or drop or paste pictures and PDFs</p>
          <button type="button" className="plain strip-camera" onClick={props.onCamera}>
            Photograph by phone
          </button>
          <button type="button" className="plain" onClick={props.onHere}>
            Photograph here
          </button>
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
