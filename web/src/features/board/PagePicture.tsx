import { useEffect, useState } from "react";
import type { Schemas } from "../../shared/api/client";
import type { Arrangement } from "./arrangement";

/** Hold this key to see the picture as it came. */
export const COMPARE_KEY = "=";

interface Props {
  page: Schemas["PageOut"];
  number: number;
  labels: string[];
  arrangement: Arrangement;
  advice: Schemas["AdviceOut"][];
}

/** The page, large; the picture it was made from while a key or the button is held. */
export function PagePicture({ page, number, labels, arrangement, advice }: Props) {
  const [before, setBefore] = useHeldKey(COMPARE_KEY);
  const shows = before && page.source !== "";
  const hold = {
    onPointerDown: () => setBefore(true),
    onPointerUp: () => setBefore(false),
    onPointerLeave: () => setBefore(false),
    onKeyDown: (event: React.KeyboardEvent) => event.key === " " && setBefore(true),
    onKeyUp: () => setBefore(false),
    onBlur: () => setBefore(false),
  };
  return (
    <div className="panel-picture">
      <div className="panel-sheet">
        {page.image ? (
          <img
            src={shows ? page.source : page.image}
            width={shows ? page.found?.source_width : page.width}
            height={shows ? page.found?.source_height : page.height}
            alt={shows ? `Page ${number} as it came` : `Page ${number} as it will be read`}
          />
        ) : (
          <p className="soft panel-waiting">Safe on the server. Being straightened …</p>
        )}
        {page.image && !shows && <Flags page={page.id} labels={labels} arrangement={arrangement} />}
        {!shows && advice.map((one) => one.where && <Spot key={one.code} where={one.where} />)}
        {page.image && page.state === "waiting" && <p className="panel-anew">Making it anew …</p>}
      </div>
      {page.source && (
        <button type="button" className="plain panel-before" title={`Hold ${COMPARE_KEY}`} aria-pressed={before} {...hold}>
          Hold to see it as it came
        </button>
      )}
    </div>
  );
}

function useHeldKey(key: string) {
  const [held, setHeld] = useState(false);
  useEffect(() => {
    const writing = (target: EventTarget | null) =>
      target instanceof HTMLTextAreaElement || (target instanceof HTMLInputElement && target.value !== "");
    const down = (event: KeyboardEvent) => {
      if (event.key !== key || writing(event.target)) return;
      event.preventDefault();
      setHeld(true);
    };
    const up = (event: KeyboardEvent) => event.key === key && setHeld(false);
    const lost = () => setHeld(false);
    window.addEventListener("keydown", down);
    window.addEventListener("keyup", up);
    window.addEventListener("blur", lost);
    return () => {
      window.removeEventListener("keydown", down);
      window.removeEventListener("keyup", up);
      window.removeEventListener("blur", lost);
    };
  }, [key]);
  return [held, setHeld] as const;
}

function Spot({ where: [left = 0, top = 0, width = 0, height = 0] }: { where: number[] }) {
  const style = { left: `${left * 100}%`, top: `${top * 100}%`, width: `${width * 100}%`, height: `${height * 100}%` };
  return <i className="panel-spot" style={style} aria-hidden="true" />;
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
