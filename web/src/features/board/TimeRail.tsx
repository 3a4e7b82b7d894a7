import type { Schemas } from "../../shared/api/client";
import { clockTime, dayAndTime, lengthOfTime, useNow } from "../../shared/time";
import "./TimeRail.css";

/** The sitting as a bar: both phases, now, a tick for each event, and in words what ends next. */
export function TimeRail({ board, safe }: { board: Schemas["BoardOut"]; safe: string }) {
  const now = useNow();
  const { window, assignment, events } = board;
  const zone = assignment.time_zone;
  const begun = Date.parse(window.begun ?? window.opens);
  const closes = Date.parse(window.closes);
  const writing = Date.parse(window.writing_ends ?? window.due);
  const end = Math.max(closes, begun + 1);
  const at = (moment: number) => Math.min(100, Math.max(0, ((moment - begun) / (end - begun)) * 100));
  const next = nextEnd(window, now);
  const say = window.timed ? clockTime : dayAndTime;
  const second = window.timed ? "handover until" : window.late_until ? "late until" : "";
  const hurry = next !== null && (next.at - now) / Math.max(1, next.at - next.from) < 0.25;
  return (
    <section className="time-rail" aria-label="Time">
      <div className="time-rail-bar">
        <i className="rail-writing" style={{ width: `${at(writing)}%` }} />
        <i className="rail-handover" style={{ left: `${at(writing)}%` }} />
        {events.map((event, number) => (
          <i key={number} className={`rail-tick rail-${event.kind}`} style={{ left: `${at(Date.parse(event.at))}%` }} />
        ))}
        {now < end && <i className="rail-now" style={{ left: `${at(now)}%` }} />}
      </div>
      <div className="time-rail-words">
        <span>Begun {say(begun, zone)}</span>
        <span className="rail-middle">
          {window.timed ? "writing until" : "due"} {say(writing, zone)}
        </span>
        {second && (
          <span>
            {second} {say(closes, zone)}
          </span>
        )}
      </div>
      <div className="time-rail-left" role="timer" aria-live="off">
        <strong className={hurry ? "red" : ""}>{next ? lengthOfTime(next.at - now) : "Closed"}</strong>
        <span className="soft">
          {next ? next.words : `closed ${dayAndTime(closes, zone)}`} · {safe}
        </span>
      </div>
    </section>
  );
}

function nextEnd(window: Schemas["WindowOut"], now: number) {
  const from = Date.parse(window.begun ?? window.opens);
  const ends = [
    { at: Date.parse(window.writing_ends ?? window.due), words: window.timed ? "left to write" : "until due" },
    { at: Date.parse(window.closes), words: window.timed ? "left to hand in" : "left, as late work" },
  ];
  let began = from;
  for (const end of ends) {
    if (now < end.at) return { ...end, from: began };
    began = end.at;
  }
  const placing = Date.parse(window.placing_ends);
  return now < placing ? { at: placing, from: began, words: "left to place; no more pages" } : null;
}
