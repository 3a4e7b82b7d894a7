/** What a small grey picture of the viewfinder says about the sheet in it; empty where nothing is amiss. */
export interface Seen {
  width: number;
  height: number;
  /** Grey values, row by row, 0 to 255. */
  grey: Uint8ClampedArray;
}

const [DARK, BRIGHT_SHARE, SHARP] = [70, 0.25, 6]; // chosen on the simulated camera's frames

/**
 * A hint before the picture is taken. It only looks for what is cheap and sure: too dark, a sheet that fills too little or
 * touches an edge (by the share and place of bright pixels), and a picture that moves. The server's check is the real one.
 */
export function frameHint(now: Seen, before: Seen | null): string {
  const { grey, width, height } = now;
  const mean = grey.reduce((sum, value) => sum + value, 0) / grey.length;
  if (mean < DARK) return "Rather dark: turn on a light";
  if (before && moved(now, before) > SHARP * 3) return "Hold still";
  const bright = threshold(grey);
  const paper = Array.from(grey, (value) => value > bright);
  const share = paper.filter(Boolean).length / paper.length;
  if (share < BRIGHT_SHARE) return "Come nearer: the sheet should fill the frame";
  const edge = (x: number, y: number) => paper[y * width + x] ?? false;
  const row = (y: number) => Array.from({ length: width }, (_, x) => edge(x, y)).filter(Boolean).length / width;
  const column = (x: number) => Array.from({ length: height }, (_, y) => edge(x, y)).filter(Boolean).length / height;
  const touched = [row(0), row(height - 1), column(0), column(width - 1)].filter((part) => part > 0.5).length;
  if (touched > 0 && touched < 4) return "The sheet is cut off: step back a little";
  return "";
}

function moved(now: Seen, before: Seen): number {
  let sum = 0;
  now.grey.forEach((value, at) => (sum += Math.abs(value - (before.grey[at] ?? value))));
  return sum / now.grey.length;
}

/** Otsu's threshold (IEEE Trans. SMC 9, 1979): the grey that parts paper from desk best. */
function threshold(grey: Uint8ClampedArray): number {
  const counts = new Array<number>(256).fill(0);
  for (const value of grey) counts[value] = (counts[value] ?? 0) + 1;
  const all = counts.reduce((sum, count, value) => sum + count * value, 0);
  let [below, belowSum, best, at] = [0, 0, -1, 127];
  for (let value = 0; value < 256; value += 1) {
    below += counts[value] ?? 0;
    belowSum += value * (counts[value] ?? 0);
    const above = grey.length - below;
    if (below === 0 || above === 0) continue;
    const between = below * above * (belowSum / below - (all - belowSum) / above) ** 2;
    if (between > best) [best, at] = [between, value];
  }
  return at;
}
