export type Point = readonly [number, number];
export type Corners = readonly [Point, Point, Point, Point];

/**
 * The projective map that takes four corners (clockwise from the top left) to a width × height rectangle, as CSS's
 * `matrix3d` spells it (CSS Transforms 2, 13.2: sixteen numbers, column by column).
 */
export function matrixOnto(corners: Corners, width: number, height: number): string {
  const [a, b, c, d, e, f, g, h] = inverted(ontoCorners(corners, width, height));
  return `matrix3d(${[a, d, 0, g, b, e, 0, h, 0, 0, 1, 0, c, f, 0, 1].join(",")})`;
}

/** Rectangle → corners, in closed form (Heckbert, Fundamentals of Texture Mapping, 1989, 2.2.3). */
function ontoCorners(corners: Corners, width: number, height: number): number[] {
  const [[x0, y0], [x1, y1], [x2, y2], [x3, y3]] = corners;
  const [dx1, dx2, sx] = [x1 - x2, x3 - x2, x0 - x1 + x2 - x3];
  const [dy1, dy2, sy] = [y1 - y2, y3 - y2, y0 - y1 + y2 - y3];
  const det = dx1 * dy2 - dx2 * dy1;
  const g = (sx * dy2 - dx2 * sy) / det;
  const h = (dx1 * sy - sx * dy1) / det;
  const unit = [x1 - x0 + g * x1, x3 - x0 + h * x3, x0, y1 - y0 + g * y1, y3 - y0 + h * y3, y0, g, h, 1];
  return unit.map((value, at) => (at % 3 === 0 ? value / width : at % 3 === 1 ? value / height : value));
}

function inverted(m: number[]): number[] {
  const [a = 0, b = 0, c = 0, d = 0, e = 0, f = 0, g = 0, h = 0, i = 1] = m;
  const adjugate = [e * i - f * h, c * h - b * i, b * f - c * e, f * g - d * i, a * i - c * g, c * d - a * f,
    d * h - e * g, b * g - a * h, a * e - b * d];
  const last = adjugate[8] ?? 1;
  return adjugate.map((value) => value / last);
}

/** Whether the corners go round clockwise without a dent, so that a sheet can be cut along them. */
export function isOutline(corners: Corners): boolean {
  return corners.every((corner, at) => {
    const [next, after] = [corners[(at + 1) % 4] ?? corner, corners[(at + 2) % 4] ?? corner];
    return (next[0] - corner[0]) * (after[1] - next[1]) - (next[1] - corner[1]) * (after[0] - next[0]) > 1;
  });
}
