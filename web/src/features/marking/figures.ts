const BARS = 10;

/** How the answers came out whose points are known; `points`: null where there are none. As `statistics.py` counts them. */
export function figuresOf(points: readonly (string | null)[], most: number) {
  const given = points.filter((one): one is string => one !== null).map(Number);
  const bars = new Array<number>(BARS).fill(0);
  for (const one of given) {
    const share = most > 0 ? one / most : 1;
    const at = Math.min(BARS - 1, Math.max(0, Math.floor(share * BARS + 1e-9)));
    bars[at] = (bars[at] ?? 0) + 1;
  }
  const mean = given.length === 0 ? null : given.reduce((sum, one) => sum + one, 0) / given.length;
  return { marked: given.length, of: points.length, mean, bars };
}
