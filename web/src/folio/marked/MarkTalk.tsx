import { useMutation } from "@tanstack/react-query";
import { useId, useState } from "react";
import { answer, api, type Schemas } from "../../shared/api/client";
import { Button } from "../../shared/ui/Button";
import { later } from "../../shared/ui/later";
import { Trouble } from "../../shared/ui/Trouble";
import { WhatWasSaid } from "../Talk";

const TextField = later("TextField");

interface Props {
  folioId: number;
  question: { id: string; label: string };
  words: readonly Schemas["MarkWordOut"][];
  zone: string;
  /** The button that opens the field, and what the field is called; without them nothing can be said (any more). */
  saying: { ask: string; field: string } | null;
  onSaid: () => void;
}

/** What its student asked about a mark, the answers to it, and the field to go on. */
export function MarkTalk({ folioId, question, words, zone, saying, onSaid }: Props) {
  const [writing, setWriting] = useState(false);
  const [text, setText] = useState("");
  const id = useId();
  const say = useMutation({
    mutationFn: () => answer(api.POST("/api/folios/{folio_id}/mark-words", { params: { path: { folio_id: folioId } }, body: { question: question.id, text } })),
    onSuccess: () => {
      setWriting(false);
      setText("");
      onSaid();
    },
  });
  return (
    <div className="talk">
      {words.length > 0 && <WhatWasSaid label={`What was said about the mark of ${question.label}`} words={words} zone={zone} />}
      {saying && writing && (
        <div className="talk-saying">
          <label htmlFor={id} className="soft">
            {saying.field}
          </label>
          <TextField id={id} takesFocus most={2000} value={text} onChange={setText} onBlur={() => undefined} />
          {say.error && <Trouble error={say.error} />}
          <p>
            <Button small busy={say.isPending} disabled={text.trim() === ""} onClick={() => say.mutate()}>
              Send
            </Button>{" "}
            <button type="button" className="plain" onClick={() => setWriting(false)}>
              Not now
            </button>
          </p>
        </div>
      )}
      {saying && !writing && (
        <button type="button" className="plain" onClick={() => setWriting(true)}>
          {saying.ask}
          <span className="unseen"> of {question.label}</span>
        </button>
      )}
    </div>
  );
}
