import { memo, useEffect } from "react";
import type { Schemas } from "../shared/api/client";
import { deviceClockIsOff, clockTime, dayAndTime, lengthOfTime, useNow } from "../shared/time";
import { happened, tickWords } from "./eventWords";
import { isOneClock, nextEnd } from "./sitting";
import { useSpoken } from "./useSpoken";
import { useTimeLeftInTab } from "../shared/tabTitle";
import { count } from "../shared/words";
import { Explained } from "../shared/ui/Explained";
import "./TimeRail.css";

const ON_THE_RAIL = new Set(["begun", "arrived", "pledged", "handed_in", "taken_back", "lengthened", "amended", "map_changed"]);
const DAY_MS = 86_400_000;

interface Sitting {
  window: Schemas["WindowOut"];
  assignment: Schemas["AssignmentOut"];
  events: Schemas["RecordedEvent"][];
  pace?: Schemas["PaceOut"] | null;
  rehearsal?: boolean;
}

/** The sitting as a bar: both phases, now, a tick for each event; what ends next, in words and numbers. */
export const TimeRail = memo(function TimeRail({ sitting, safe }: { sitting: Sitting; safe: string }) {
  const now = useNow();
  const { window, assignment, events, pace, rehearsal } = sitting;
  const zone = assignment.time_zone;
  const begun = Date.parse(window.begun ?? window.opens);
  const closes = Date.parse(window.closes);
  const writing = Date.parse(window.writing_ends ?? window.due);
  const end = Math.max(closes, begun + 1);
  const at = (moment: number) => Math.min(100, Math.max(0, ((moment - begun) / (end - begun)) * 100));
  const next = nextEnd(window, now);
  const say = window.timed ? clockTime : dayAndTime;
  const oneClock = isOneClock(window);
  const second = oneClock ? "" : window.timed ? "handover until" : window.late_until ? "late until" : "";
  const hurry = next !== null && (next.at - now) / Math.max(1, next.at - next.from) < 0.25;
  useEffect(() => {
    document.documentElement.toggleAttribute("data-hurry", hurry); // what is still to do turns red
    return () => document.documentElement.removeAttribute("data-hurry");
  }, [hurry]);
  const spoken = useSpoken(next, events, now);
  useTimeLeftInTab(next ? `${lengthOfTime(next.at - now)} left` : "closed");
  return (
    <section className="time-rail" aria-label="Time">
      <div className="time-rail-bar">
        <i className="rail-writing" style={{ width: `${at(writing)}%` }} />
        <i className="rail-handover" style={{ left: `${at(writing)}%` }} />
        {events.filter((one) => ON_THE_RAIL.has(one.event.kind)).map((one, number) => (
          <i
            key={number}
            className={`rail-tick rail-${one.event.kind}`}
            style={{ left: `${at(Date.parse(one.at))}%` }}
            title={`${tickWords(one.event)} ${clockTime(one.at, zone, true)}`}
          />
        ))}
        {now < end && <i className="rail-now" style={{ left: `${at(now)}%` }} />}
      </div>
      <div className="time-rail-words">
        <p>
          {rehearsal && <strong className="rail-rehearsal">Rehearsal · </strong>}
          Begun {say(begun, zone)}
          {happened(events) && ` · ${happened(events)}`}
        </p>
        <p className="rail-middle">
          {oneClock ? "writing and sending until" : window.timed ? "writing until" : "due"} {say(writing, zone)}
        </p>
        {second && (
          <p>
            {second} {say(closes, zone)}
          </p>
        )}
      </div>
      <div className="time-rail-left" role="timer" aria-live="off">
        <strong className={hurry ? "red" : ""}>{next ? lengthOfTime(next.at - now) : "Closed"}</strong>
        <span className="soft">
          {next ? next.words : `closed ${dayAndTime(closes, zone)}`}
          {safe && ` · ${safe}`}
        </span>
        {pace && next?.adding && next.at - now < DAY_MS && now < Date.parse(pace.pen_down) && <PenDown pace={pace} zone={zone} timed={window.timed} />}
        <DeviceClock />
      </div>
      <p className="unseen" aria-live="polite">
        {spoken}
      </p>
    </section>
  );
});

/** When to stop writing; how that was worked out is told on hover, on focus and by touch. */
function PenDown({ pace, zone, timed }: { pace: Schemas["PaceOut"]; zone: string; timed: boolean }) {
  const say = timed ? clockTime : dayAndTime;
  const each = Math.round(pace.seconds_a_page);
  const from =
    pace.basis === "measured"
      ? `${each} s a page, from your last ${count(pace.measured_pages, "page")}`
      : `${each} s a page, an assumption until three of your pages are in`;
  const why = `${count(pace.pages, "page")} to come × ${from}, and ${Math.round(pace.check_seconds / 60)} min to look it over.`;
  return (
    <Explained words={why}>
      <button type="button" className="rail-pace" aria-label={`Put the pen down by ${say(pace.pen_down, zone)}. ${why}`}>
        Pen down by {say(pace.pen_down, zone)}
      </button>
    </Explained>
  );
}

function DeviceClock() {
  const off = deviceClockIsOff();
  if (!off) return null;
  return <span className="red">This device’s clock is {off}. The times here are the server’s.</span>;
}
