import type { Actions } from "./useActions";

/** What a key does while the strip, the label line (empty) or the large page has the focus; never elsewhere. */
export interface Key {
  keys: string[];
  does: string;
}

export const KEYS: Key[] = [
  { keys: ["2a-c, 4", "Enter"], does: "place these on the page, go to the next" },
  { keys: ["4", "_"], does: "leave these questions blank" },
  { keys: [">3", "Enter"], does: "the page goes to place 3" },
  { keys: ["Enter"], does: "next page not placed" },
  { keys: ["←", "→"], does: "page before, page after" },
  { keys: ["Home", "End"], does: "first page, last page" },
  { keys: ["Shift ←", "Shift →"], does: "choose more pages together" },
  { keys: ["Alt ←", "Alt →"], does: "move the page, or all that are chosen" },
  { keys: ["Y", "Shift Y"], does: "confirm what is proposed for the page, or all that is sure" },
  { keys: ["“"], does: "the last answer of the page before runs on here" },
  { keys: ["."], does: "loose page: answers no question" },
  { keys: ["Delete"], does: "remove the page (it can be restored)" },
  { keys: ["+", "-"], does: "see the page larger, smaller" },
  { keys: ["P", "F2"], does: "the question paper beside it, or away (F2: from anywhere)" },
  { keys: ["="], does: "hold: the picture as it came" },
  { keys: ["Ctrl Z", "Ctrl Y"], does: "undo, redo (anywhere)" },
  { keys: ["Ctrl Enter"], does: "check and hand in (anywhere)" },
  { keys: ["?"], does: "this list" },
];

interface Wider {
  onLarger: (by: 1 | -1) => void;
  onHelp: () => void;
  onConfirm: () => void;
  onConfirmAll: () => void;
}

/** Carries out a key of the board. Returns whether it was one. */
export function boardKey(event: React.KeyboardEvent, at: number, ids: readonly number[], actions: Actions, wider: Wider): boolean {
  if (event.ctrlKey || event.metaKey) return false;
  const beside = (by: 1 | -1) => {
    if (event.altKey) return actions.shift(by);
    if (!event.shiftKey) return actions.walk(at + by);
    const ends = [ids.indexOf(actions.group[0] ?? NaN), ids.indexOf(actions.group.at(-1) ?? NaN)] as const;
    const next = ids[by > 0 ? ends[1] + 1 : ends[0] - 1];
    if (next !== undefined) actions.mark(next, false);
  };
  const keys: Record<string, () => void> = {
    ArrowLeft: () => beside(-1),
    ArrowRight: () => beside(1),
    Home: () => actions.walk(0),
    End: () => actions.walk(ids.length - 1),
    ".": actions.loosen,
    '"': actions.runOn,
    "“": actions.runOn,
    "'": actions.runOn,
    Delete: actions.remove,
    "+": () => wider.onLarger(1),
    "-": () => wider.onLarger(-1),
    "?": wider.onHelp,
    y: wider.onConfirm,
    Y: wider.onConfirmAll,
  };
  const action = keys[event.key];
  if (!action) return false;
  event.preventDefault();
  action();
  return true;
}
