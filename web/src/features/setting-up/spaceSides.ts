import type { Schemas } from "../../shared/api/client";

export type Space = Schemas["SpaceDoc"];
export type Sides = Pick<Space, "left" | "top" | "right" | "bottom">;

/** ``what`` of a space is moved, by how many millimetres: its upper left corner (head), its lower right one, or all. */
export interface Step {
  what: "head" | "foot" | "all";
  x: number;
  y: number;
}

export const LEAST_MM = 5;

/** The space's sides after a step. It stays on its page, and as large as can be taken hold of. */
export function moved(space: Sides, step: Step, page: { width: number; height: number }): Sides {
  const [left, right] = along(space.left, space.right, step.x, step.what, page.width);
  const [top, bottom] = along(space.top, space.bottom, step.y, step.what, page.height);
  return { left, top, right, bottom };
}

function along(from: number, to: number, by: number, what: Step["what"], most: number): [number, number] {
  if (what === "head") return [tenth(clamp(from + by, 0, to - LEAST_MM)), to];
  if (what === "foot") return [from, tenth(clamp(to + by, from + LEAST_MM, most))];
  const step = clamp(by, -from, most - to);
  return [tenth(from + step), tenth(to + step)];
}

function clamp(value: number, least: number, most: number): number {
  return Math.max(least, Math.min(value, most));
}

/** Down to a tenth, so that the far side never comes to lie beyond its page. */
function tenth(mm: number): number {
  return Math.floor(mm * 10 + 1e-6) / 10;
}
