const QUIET = 4; // modules of white around a code (ISO/IEC 18004)

/** Drawn as wide as its place. `modules`: row by row, a 1 for each dark one. `label`: what it is for, for the ear. */
export function QrCode({ modules, label }: { modules: string[]; label: string }) {
  const side = modules.length + 2 * QUIET;
  const dark = modules.flatMap((row, y) => [...row].flatMap((one, x) => (one === "1" ? [`M${x + QUIET} ${y + QUIET}h1v1h-1z`] : [])));
  return (
    <svg width="100%" viewBox={`0 0 ${side} ${side}`} role="img" aria-label={label} shapeRendering="crispEdges">
      <path d={`M0 0h${side}v${side}h-${side}z`} fill="#fff" />
      <path d={dark.join("")} fill="#000" />
    </svg>
  );
}
