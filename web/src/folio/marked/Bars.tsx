import "./Bars.css";

/** How many answers reached each tenth of the points; the last with all of them. */
export function Bars({ bars, label }: { bars: readonly number[]; label: string }) {
  const most = Math.max(1, ...bars);
  return (
    <div className="bars" role="img" aria-label={`${label}: ${bars.map((one, at) => (one > 0 ? `${one} at ${at * 10} to ${at * 10 + 10} percent` : "")).filter(Boolean).join(", ") || "nothing yet"}`}>
      {bars.map((one, at) => (
        <i key={at} style={{ height: `${one === 0 ? 2 : Math.max(8, (100 * one) / most)}%` }} className={one === 0 ? "none" : undefined} />
      ))}
    </div>
  );
}
