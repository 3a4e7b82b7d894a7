import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type Ref, useState } from "react";
import { answer, api, type Schemas } from "../../shared/api/client";
import { list } from "../../shared/words";
import "./LabelLine.css";

interface Props {
  ref: Ref<HTMLInputElement>;
  assignmentId: number;
  questions: Schemas["QuestionOut"][];
  pageNumber: number;
  onPlace: (labels: string[]) => void;
  onKey: (event: React.KeyboardEvent) => boolean;
}

/** One line to type on: what is on the chosen page. Shows what it understood before Enter places it. */
export function LabelLine({ ref, assignmentId, questions, pageNumber, onPlace, onKey }: Props) {
  const [text, setText] = useState("");
  const [refusal, setRefusal] = useState("");
  const queries = useQueryClient();
  const reading = (typed: string) => ({
    queryKey: ["labels", assignmentId, typed],
    staleTime: Infinity,
    queryFn: () => {
      const params = { path: { assignment_id: assignmentId }, query: { text: typed } };
      return answer(api.GET("/api/assignments/{assignment_id}/labels", { params }));
    },
  });
  const trimmed = text.trim();
  const understood = useQuery({ ...reading(trimmed), enabled: trimmed !== "", placeholderData: (before) => before });

  async function enter() {
    if (trimmed === "") return;
    try {
      const typed = await queries.fetchQuery(reading(trimmed));
      if (typed.unknown.length > 0 || typed.labels.length === 0) {
        setRefusal(notOnMap(typed));
        return;
      }
      setText("");
      setRefusal("");
      onPlace(typed.labels);
    } catch (error) {
      setRefusal(error instanceof Error ? error.message : "This could not be read just now.");
    }
  }
  const meant = trimmed === "" ? undefined : understood.data;
  return (
    <div className="label-line">
      <label htmlFor="label-line">On page {pageNumber}:</label>
      <input
        id="label-line"
        ref={ref}
        value={text}
        placeholder="2a-c, 4"
        autoComplete="off"
        autoCapitalize="off"
        spellCheck={false}
        aria-describedby="label-line-meant"
        onChange={(event) => {
          setText(event.target.value);
          setRefusal("");
        }}
        onKeyDown={(event) => {
          if (event.key === "Enter") void enter();
          else if (event.key === "Escape") setText("");
          else if (text === "") onKey(event);
        }}
      />
      <span id="label-line-meant" className="label-line-meant" aria-live="polite">
        {refusal ? <span className="red">{refusal}</span> : meant && <Meant typed={meant} questions={questions} />}
      </span>
      <span className="soft label-line-keys">
        <kbd className="key">Enter</kbd> place and go on <kbd className="key">.</kbd> loose page{" "}
        <kbd className="key">←</kbd> <kbd className="key">→</kbd> walk
      </span>
    </div>
  );
}

function Meant({ typed, questions }: { typed: Schemas["TypedOut"]; questions: Schemas["QuestionOut"][] }) {
  const [only] = typed.labels;
  const title = typed.labels.length === 1 ? questions.find((one) => one.label === only)?.title : "";
  return (
    <>
      {typed.labels.length > 0 && (
        <span className="label-line-chip">
          {typed.labels.join(" ")}
          {title && ` · ${title}`}
        </span>
      )}
      {typed.unknown.length > 0 && <span className="red"> {notOnMap(typed)}</span>}
    </>
  );
}

function notOnMap(typed: Schemas["TypedOut"]): string {
  const unknown = list(typed.unknown.map((piece) => `“${piece}”`));
  const nearest = typed.nearest.length > 0 ? ` Nearest: ${list(typed.nearest)}.` : "";
  return `${unknown || "This"} is not on the question map.${nearest}`;
}
