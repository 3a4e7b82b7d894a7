const PARTS: Record<string, string> = { "25": "¼", "5": "½", "75": "¾" };

/** Points as one writes them: "2.5" is 2½, "-1" is −1. */
export function pointsWords(points: string | number): string {
  const text = typeof points === "number" ? String(Math.round(points * 100) / 100) : points;
  const minus = text.startsWith("-") ? "−" : "";
  const [whole = "0", part = ""] = text.replace(/^-/, "").split(".");
  const rest = part.replace(/0+$/, "");
  if (rest === "") return minus + whole;
  const sign = PARTS[rest];
  if (sign) return minus + (whole === "0" ? sign : whole + sign);
  return `${minus}${whole}.${rest}`;
}

/** What was typed as points, as a decimal number in words; null where it is none. A comma is a point. */
export function readPoints(typed: string): string | null {
  const text = typed.trim().replace(",", ".").replace(/^[−–]/, "-").replace("½", ".5").replace("¼", ".25").replace("¾", ".75");
  const match = /^(-?)(\d{0,5})(?:\.(\d{0,2}))?$/.exec(text);
  if (!match || (!match[2] && !match[3])) return null;
  const part = (match[3] ?? "").replace(/0+$/, "");
  const whole = (match[2] ?? "").replace(/^0+(?=\d)/, "") || "0";
  const number = part ? `${whole}.${part}` : whole;
  return number === "0" ? "0" : match[1] + number;
}

/** Whether points go in steps of `step`. */
export function isStep(points: string, step: string): boolean {
  return Math.round(Number(points) * 100) % Math.round(Number(step) * 100) === 0;
}
