import { useEffect, useRef } from "react";
import { useSearchParams } from "react-router";

/** The page by its number, or (`?asked=`) by its id, which stays when pages are put in another order. */
function named(asked: URLSearchParams, ids: readonly number[]): number | undefined {
  const id = Number(asked.get("asked"));
  return ids.includes(id) ? id : ids[Number(asked.get("page")) - 1];
}

/** An address that names a page or a question (`?page=3`, `?question=2b`) opens the board there, once. */
export function useAskedFor(
  ids: readonly number[],
  look: (page: number) => void,
  /** The question of that label, where it is answered on the screen. */
  onScreen: (label: string) => string | null,
  openAnswer: (question: string) => void,
) {
  const [asked, setAsked] = useSearchParams();
  const heard = useRef("");
  useEffect(() => {
    const [words, id, label] = [asked.toString(), named(asked, ids), asked.get("question")];
    const typed = label && onScreen(label);
    const row = label && document.querySelector(`.ribbon-row[data-labels="${CSS.escape(label)}"]`);
    if (heard.current === words || (id === undefined && !row && !typed)) return;
    heard.current = words;
    if (id !== undefined) look(id);
    if (typed) openAnswer(typed);
    if (row) {
      row.scrollIntoView({ block: "center" });
      row.classList.add("ribbon-asked");
    }
    setAsked({}, { replace: true }); // going back does not jump here again
  });
}
