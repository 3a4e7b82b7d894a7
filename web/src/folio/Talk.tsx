import { useMutation } from "@tanstack/react-query";
import { useId, useState } from "react";
import { answer, api, type Schemas } from "../shared/api/client";
import { dayAndTime } from "../shared/time";
import { Button } from "../shared/ui/Button";
import { later } from "../shared/ui/later";
import { Trouble } from "../shared/ui/Trouble";
import "./Talk.css";

const TextField = later("TextField");
export type Word = Schemas["SaidOut"];

interface TalkProps {
  folioId: number;
  /** The id of the page it is about; null is all of it. */
  page: number | null;
  /** Of the whole folio. */
  words: readonly Word[];
  zone: string;
  /** The button that opens the field while nothing was said; without it, there is only an answer to what was. */
  ask?: string;
  /** Where nothing else tells of it. */
  onSaid?: () => void;
}

/** What student and readers said to each other about a page, and the field to go on. */
export function Talk({ folioId, page, words, zone, ask, onSaid }: TalkProps) {
  const [writing, setWriting] = useState(false);
  const here = words.filter((one) => one.page === page);
  if (here.length === 0 && !ask) return null;
  return (
    <div className="talk">
      {here.length > 0 && <WhatWasSaid label="What was said about it" words={here} zone={zone} />}
      {writing ? (
        <Saying {...{ folioId, page }} onClose={() => setWriting(false)} onSaid={onSaid} />
      ) : (
        <button type="button" className="plain" onClick={() => setWriting(true)}>
          {here.length > 0 ? "Answer" : ask}
        </button>
      )}
    </div>
  );
}

interface SaidProps {
  label: string;
  words: readonly Pick<Word, "at" | "by" | "staff" | "text">[];
  zone: string;
}

/** Words of a student and of staff, one after another. */
export function WhatWasSaid({ label, words, zone }: SaidProps) {
  return (
    <ul aria-label={label}>
      {words.map((one) => (
        <li key={one.at} className={one.staff ? "talk-staff" : ""}>
          <span className="soft">
            {one.by}, {dayAndTime(one.at, zone)}
          </span>{" "}
          {one.text}
        </li>
      ))}
    </ul>
  );
}

function Saying({ folioId, page, onClose, onSaid }: Pick<TalkProps, "folioId" | "page" | "onSaid"> & { onClose: () => void }) {
  const [text, setText] = useState("");
  const id = useId();
  const say = useMutation({
    mutationFn: () => answer(api.POST("/api/folios/{folio_id}/words", { params: { path: { folio_id: folioId } }, body: { text, page } })),
    onSuccess: () => {
      onSaid?.();
      onClose();
    },
  });
  return (
    <div className="talk-saying">
      <label htmlFor={id} className="soft">
        Your words
      </label>
      <TextField id={id} takesFocus most={1000} value={text} disabled={say.isPending} onChange={setText} onBlur={() => undefined} />
      {say.error && <Trouble error={say.error} />}
      <p>
        <Button small busy={say.isPending} disabled={text.trim() === ""} onClick={() => say.mutate()}>
          Send
        </Button>{" "}
        <button type="button" className="plain" onClick={onClose}>
          Not now
        </button>
      </p>
    </div>
  );
}
