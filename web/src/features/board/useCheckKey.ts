import { useEffect } from "react";
import { useNavigate } from "react-router";

const LABEL_LINE = "label-line";

/** Ctrl Enter leads to the check from anywhere on the board, but not away from a label that is half typed. */
export function useCheckKey(folioId: number) {
  const navigate = useNavigate();
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key !== "Enter" || !(event.ctrlKey || event.metaKey)) return;
      if (event.target instanceof HTMLInputElement && event.target.id === LABEL_LINE && event.target.value.trim() !== "") return;
      if (event.target instanceof Element && event.target.closest("[role=dialog]")) return;
      event.preventDefault();
      void navigate(`/folios/${folioId}/check`);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [folioId, navigate]);
}
