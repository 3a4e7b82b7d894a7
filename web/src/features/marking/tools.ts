import type { Tool } from "../../folio/marked/ink";

export type Chosen = Tool | "eraser";

/** What can be drawn with, each with its key. */
export const TOOLS: readonly { tool: Chosen; key: string; words: string }[] = [
  { tool: "pen", key: "p", words: "Pen" },
  { tool: "tick", key: "t", words: "Tick" },
  { tool: "cross", key: "x", words: "Cross" },
  { tool: "underline", key: "u", words: "Underline" },
  { tool: "highlighter", key: "h", words: "Highlighter" },
  { tool: "text", key: "a", words: "Words" },
  { tool: "eraser", key: "e", words: "Eraser" },
];
