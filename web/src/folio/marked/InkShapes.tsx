import { memo } from "react";
import { Prose } from "../Prose";
import { type InkShape, inkPath, UNITS } from "./ink";

const WORDS = { pen: "pen stroke", highlighter: "highlighted", underline: "underlined", tick: "tick", cross: "cross", text: "note" } as const;

/** Ink as shapes of an SVG whose width is `UNITS`. */
export const InkShapes = memo(function InkShapes({ ink, ratio }: { ink: readonly InkShape[]; ratio: number }) {
  return ink.map((one, at) => <OneShape key={at} shape={one} ratio={ratio} />);
});

const OneShape = memo(function OneShape({ shape, ratio }: { shape: InkShape; ratio: number }) {
  const [first] = shape.points;
  if (shape.tool === "text") {
    if (!first) return null;
    const [x = 0, y = 0] = first;
    const size = shape.width * UNITS;
    if (shape.text.includes("$")) return <MathsAtSpot x={x * UNITS} y={y * UNITS * ratio} size={size} text={shape.text} />;
    return (
      <text className="ink-text" x={x * UNITS} y={y * UNITS * ratio + size} fontSize={size}>
        {shape.text}
      </text>
    );
  }
  const filled = shape.tool === "pen";
  const width = shape.width * UNITS * (shape.tool === "tick" || shape.tool === "cross" ? 1 / 8 : 1);
  return <path className={`ink-${filled ? "pen" : shape.tool === "highlighter" ? "highlighter" : "line"}`} d={inkPath(shape, ratio)} strokeWidth={filled ? undefined : width} />;
});

/** Words with formulas: HTML within the drawing, which scales with it. */
function MathsAtSpot({ x, y, size, text }: { x: number; y: number; size: number; text: string }) {
  return (
    <foreignObject x={x} y={y - size * 0.4} width={UNITS - x} height={size * 4} className="ink-maths">
      <div className="ink-text" style={{ fontSize: size }}>
        <Prose text={text} />
      </div>
    </foreignObject>
  );
}

/** What is drawn, for those who do not see it: "2 ticks, note: units?" */
export function inkWords(ink: readonly InkShape[]): string {
  const counted = new Map<string, number>();
  for (const one of ink) if (one.tool !== "text") counted.set(WORDS[one.tool], (counted.get(WORDS[one.tool]) ?? 0) + 1);
  const signs = [...counted].map(([word, times]) => (times === 1 ? word : `${word} ${times} times`));
  const texts = ink.filter((one) => one.tool === "text").map((one) => `“${one.text}”`);
  return [...signs, ...texts].join(", ");
}
