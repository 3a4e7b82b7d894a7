import { useEffect } from "react";
import { type Chosen, TOOLS } from "./tools";

interface Actions {
  onTool: (tool: Chosen) => void;
  onNext: (by: 1 | -1) => void;
  onQuestion: (by: 1 | -1) => void;
  onNote: () => void;
  onWhole: () => void;
  onBlank: () => void;
  onUndo: (again: boolean) => void;
  onHelp: () => void;
}

/** The keys of marking. In the points' field letters are keys too: points have none. */
export function useMarkingKeys(actions: Actions) {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target instanceof HTMLElement ? event.target : null;
      if (target?.closest("[role=dialog], [role=listbox]")) return;
      const inPoints = target?.matches(".points-field, .points-field input") ?? false;
      if (target?.matches("textarea, input, select, [contenteditable]") && !inPoints) return;
      const key = event.key.toLowerCase();
      if ((event.ctrlKey || event.metaKey) && !event.altKey && (key === "z" || key === "y")) {
        event.preventDefault();
        actions.onUndo(event.shiftKey || key === "y");
        return;
      }
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      const tool = TOOLS.find((one) => one.key === key)?.tool;
      const emptyOrAway = !inPoints || event.shiftKey;
      const keys: Record<string, (() => void) | undefined> = {
        n: actions.onNote,
        w: actions.onWhole,
        b: actions.onBlank,
        "?": actions.onHelp,
        arrowdown: () => actions.onNext(1),
        arrowup: () => actions.onNext(-1),
        arrowright: emptyOrAway ? () => actions.onQuestion(1) : undefined,
        arrowleft: emptyOrAway ? () => actions.onQuestion(-1) : undefined,
      };
      const act = tool ? () => actions.onTool(tool) : keys[key];
      if (!act || (key === " " && target?.matches("button, a"))) return;
      event.preventDefault();
      act();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });
}
