import type { Schemas } from "../../shared/api/client";
import { clockTime, dayAndTime } from "../../shared/time";

const MOST_LENGTHS = 6;
type Work = Schemas["SettingUpOut"];

/** The rules drawn for some students, and what of them may not be meant. */
export function WhatThatMeans({ work }: { work: Work }) {
  const { examples, odd } = work;
  const zone = work.assignment.time_zone;
  const first = Math.min(...examples.map((one) => Date.parse(one.begins)));
  const last = Math.max(...examples.map((one) => Date.parse(one.closes)));
  const longest = Math.max(...examples.map((one) => Date.parse(one.closes) - Date.parse(one.begins)));
  // Over several days a sitting would be a dot: then all are drawn from their own beginnings.
  const together = last - first < MOST_LENGTHS * longest;
  const wide = Math.max(1, together ? last - first : longest);
  const share = (from: string | number, to: string) => ((Date.parse(to) - (typeof from === "number" ? from : Date.parse(from))) / wide) * 100;
  const bar = (from: string, to: string, begins: string) => ({
    left: `${share(together ? first : begins, from)}%`,
    width: `${share(from, to)}%`,
  });
  if (examples.length + odd.length === 0) return null;
  return (
    <section className="what-that-means" aria-labelledby="what-that-means">
      <h2 id="what-that-means">What that means</h2>
      {examples.map((one) => (
        <div key={one.name} className="example">
          <p>
            <strong>{one.name}</strong> <span className="soft">{one.whom}</span>
          </p>
          <div className="example-rail" aria-hidden="true">
            <i className="example-writing" style={bar(one.begins, one.writing_ends ?? one.closes, one.begins)} />
            <i className="example-handover" style={bar(one.writing_ends ?? one.closes, one.closes, one.begins)} />
          </div>
          <p className="soft">
            begins {dayAndTime(one.begins, zone)}
            {one.writing_ends && ` · pen down ${clockTime(one.writing_ends, zone)}`} · closes {clockTime(one.closes, zone)}
            {one.cut_minutes > 0 && <strong className="red"> · {one.cut_minutes} min cut off</strong>}
          </p>
        </div>
      ))}
      {odd.length > 0 && (
        <ul className="odd">
          {odd.map((one) => (
            <li key={one.words}>
              <strong className="red">Look again:</strong> {one.words}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
