import { getStroke } from "perfect-freehand";
import type { Schemas } from "../../shared/api/client";

export type Tool = Schemas["InkOut"]["tool"];
/** x, y and pressure. */
export type InkPoint = number[];
/** Ink on a page: x and the width as shares of the picture's width, y of its height. */
export interface InkShape {
  tool: Tool;
  points: readonly InkPoint[];
  width: number;
  text: string;
}
/** The width of a page in the drawing's own units; its height follows. */
export const UNITS = 1000;
const SHAPES: Partial<Record<Tool, readonly (readonly [number, number])[][]>> = {
  tick: [[[-0.5, 0], [-0.15, 0.4], [0.5, -0.5]]],
  cross: [[[-0.4, -0.4], [0.4, 0.4]], [[0.4, -0.4], [-0.4, 0.4]]],
};
export const WIDTHS: Record<Tool, number> = { pen: 0.0032, highlighter: 0.022, underline: 0.003, tick: 0.045, cross: 0.04, text: 0.026 };

export function isSign(tool: Tool): boolean {
  return tool === "tick" || tool === "cross" || tool === "text";
}

/** As an SVG path in units; `ratio`: height by width of the page. Text has none. */
export function inkPath({ tool, points, width }: InkShape, ratio: number): string {
  const [first] = points;
  if (!first || tool === "text") return "";
  const [left = 0, top = 0] = first;
  const lines = SHAPES[tool];
  if (lines) {
    const [x, y] = [left * UNITS, top * UNITS * ratio];
    const size = width * UNITS;
    return lines.map((line) => line.map(([dx, dy], at) => `${at === 0 ? "M" : "L"}${fixed(x + dx * size)} ${fixed(y + dy * size)}`).join("")).join("");
  }
  const there = points.map(([x = 0, y = 0, pressure = 0.5]): InkPoint => [x * UNITS, y * UNITS * ratio, pressure]);
  if (tool !== "pen") return there.map(([x = 0, y = 0], at) => `${at === 0 ? "M" : "L"}${fixed(x)} ${fixed(y)}`).join("");
  const outline = getStroke(there, { size: width * UNITS * 1.6, thinning: 0.5, smoothing: 0.5, streamline: 0.3, simulatePressure: false });
  const [start, ...rest] = outline;
  if (!start) return "";
  return `M${fixed(start[0] ?? 0)} ${fixed(start[1] ?? 0)}${rest.map(([x = 0, y = 0]) => `L${fixed(x)} ${fixed(y)}`).join("")}Z`;
}

function fixed(number: number): string {
  return number.toFixed(1);
}

/** How far a spot is from ink, in shares of the page's width. */
export function distanceTo(shape: InkShape, [x, y]: readonly [number, number], ratio: number): number {
  const there = shape.points.map(([px = 0, py = 0]) => [px, py * ratio] as const);
  const spot = [x, y * ratio] as const;
  if (isSign(shape.tool)) {
    const [at] = there;
    if (!at) return Infinity;
    const across = shape.tool === "text" ? Math.max(at[0] - spot[0], spot[0] - at[0] - shape.text.length * shape.width * 0.5, 0) : Math.abs(at[0] - spot[0]);
    const down = shape.tool === "text" ? Math.max(at[1] - spot[1], spot[1] - at[1] - shape.width, 0) : Math.abs(at[1] - spot[1]);
    return Math.max(0, Math.hypot(across, down) - (shape.tool === "text" ? 0 : shape.width / 2));
  }
  let least = Infinity;
  there.forEach((to, at) => {
    const from = there[at - 1] ?? to;
    least = Math.min(least, toLine(spot, from, to));
  });
  return Math.max(0, least - shape.width / 2);
}

function toLine([x, y]: readonly [number, number], [ax, ay]: readonly [number, number], [bx, by]: readonly [number, number]): number {
  const [dx, dy] = [bx - ax, by - ay];
  const length = dx * dx + dy * dy;
  const share = length === 0 ? 0 : Math.max(0, Math.min(1, ((x - ax) * dx + (y - ay) * dy) / length));
  return Math.hypot(x - ax - share * dx, y - ay - share * dy);
}
