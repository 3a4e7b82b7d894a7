/** What is said between the maths field in its frame and the page around it. */
export type MathsFormat = "latex" | "ascii-math";

export interface ToField {
  kind: "show";
  value: string;
  format: MathsFormat;
  dark: boolean;
}
export type ToPage = { kind: "ready" } | { kind: "typed"; value: string } | { kind: "enter" } | { kind: "escape" };

export function isToField(said: unknown): said is ToField {
  return typeof said === "object" && said !== null && (said as ToField).kind === "show" && typeof (said as ToField).value === "string";
}

export function isToPage(said: unknown): said is ToPage {
  return typeof said === "object" && said !== null && ["ready", "typed", "enter", "escape"].includes((said as ToPage).kind);
}
