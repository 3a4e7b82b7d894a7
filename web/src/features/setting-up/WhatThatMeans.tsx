import type { Schemas } from "../../shared/api/client";
import { clockTime, dayAndTime } from "../../shared/time";

type Work = Schemas["SettingUpOut"];

/** The rules drawn for some students, and what of them may not be meant. */
export function WhatThatMeans({ work }: { work: Work }) {
  const { examples, odd } = work;
  const zone = work.assignment.time_zone;
  const first = Math.min(...examples.map((one) => Date.parse(one.begins)));
  const last = Math.max(...examples.map((one) => Date.parse(one.closes)));
  const at = (moment: string) => `${((Date.parse(moment) - first) / Math.max(1, last - first)) * 100}%`;
  const share = (from: string, to: string) => `${((Date.parse(to) - Date.parse(from)) / Math.max(1, last - first)) * 100}%`;
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
            <i className="example-writing" style={{ left: at(one.begins), width: share(one.begins, one.writing_ends ?? one.closes) }} />
            <i className="example-handover" style={{ left: at(one.writing_ends ?? one.closes), width: share(one.writing_ends ?? one.closes, one.closes) }} />
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
