import { useMutation } from "@tanstack/react-query";
import { useId, useState } from "react";
import { answer, api, type Schemas } from "../../shared/api/client";
import { dayAndTime } from "../../shared/time";
import { Button } from "../../shared/ui/Button";
import { later } from "../../shared/ui/later";
import { Trouble } from "../../shared/ui/Trouble";
import "../../folio/Talk.css";

const TextField = later("TextField");

interface Props {
  row: Pick<Schemas["AnswerRow"], "folio_id" | "question" | "words">;
  zone: string;
  onSaid: () => void;
}

/** What its student asked about the mark, and the answer to it. */
export function MarkTalk({ row, zone, onSaid }: Props) {
  const [writing, setWriting] = useState(false);
  const [text, setText] = useState("");
  const id = useId();
  const say = useMutation({
    mutationFn: () => answer(api.POST("/api/folios/{folio_id}/mark-words", { params: { path: { folio_id: row.folio_id } }, body: { question: row.question, text } })),
    onSuccess: () => {
      setWriting(false);
      setText("");
      onSaid();
    },
  });
  return (
    <div className="talk">
      <ul aria-label="What was said about the mark">
        {row.words.map((one) => (
          <li key={one.at} className={one.staff ? "talk-staff" : ""}>
            <span className="soft">
              {one.by}, {dayAndTime(one.at, zone)}
            </span>{" "}
            {one.text}
          </li>
        ))}
      </ul>
      {writing ? (
        <div className="talk-saying">
          <label htmlFor={id} className="soft">
            Your answer
          </label>
          <TextField id={id} takesFocus most={2000} value={text} onChange={setText} onBlur={() => undefined} />
          {say.error && <Trouble error={say.error} />}
          <Button small busy={say.isPending} disabled={text.trim() === ""} onClick={() => say.mutate()}>
            Send
          </Button>
        </div>
      ) : (
        <button type="button" className="plain" onClick={() => setWriting(true)}>
          Answer
        </button>
      )}
    </div>
  );
}
