import type { CSSProperties } from "react";
import { Link } from "react-router";
import { LinkButton } from "../../shared/ui/Button";
import { pointsWords } from "../../folio/marked/pointsWords";
import type { Schemas } from "../../shared/api/client";
import { clockTime, dayAndTime, dayName, lengthOfTime } from "../../shared/time";
import { count } from "../../shared/words";

type Work = Schemas["FolioLineOut"];
const DAY = 86_400_000;

/** From a day before now to eight days on: what is due lies in sight, wherever one is in the week. */
function span(now: number) {
  const start = now - 1.2 * DAY;
  return { start, length: 7.6 * DAY };
}

export function TimeLine({ work, now }: { work: Work[]; now: number }) {
  const { start, length } = span(now);
  const at = (moment: number) => Math.min(100, Math.max(0, ((moment - start) / length) * 100));
  const zone = work[0]?.assignment.time_zone ?? "UTC";
  const days = dayStarts(start, length, zone);
  return (
    <div className="time-line">
      <div className="time-line-days" aria-hidden="true">
        {days
          .filter((day) => at(day) < 94)
          .map((day) => (
          <span key={day} style={{ left: `${at(day)}%` }}>
            {dayName(day + 1, zone)}
          </span>
        ))}
        <strong className="time-line-now" style={{ left: `${at(now)}%` }}>
          {dayName(now, zone).split(" ")[0]} {clockTime(now, zone)}
        </strong>
      </div>
      <ol>
        {work.map((one) => (
          <li key={one.assignment.id}>
            <Head work={one} now={now} />
            <div className="time-line-track">
              {days.map((day) => (
                <i key={day} className="time-line-day" style={{ left: `${at(day)}%` }} />
              ))}
              <Bar work={one} now={now} at={at} />
              <i className="time-line-now-mark" style={{ left: `${at(now)}%` }} />
            </div>
          </li>
        ))}
      </ol>
    </div>
  );
}

function isRunning(work: Work, now: number): boolean {
  const { timed, begun, closes } = work.window;
  return timed && begun !== null && now < Date.parse(closes);
}

/** When it ends for this student: the close of a sitting that was begun, else the due moment. */
export function endOf({ window }: Work): number {
  return Date.parse(window.timed && window.begun ? window.closes : window.due);
}

/** Midnights of the course's time zone; daylight saving makes some days 23 or 25 hours long. */
function dayStarts(start: number, length: number, zone: string): number[] {
  const starts: number[] = [];
  let previous = dayName(start, zone);
  for (let moment = Math.ceil(start / 900_000) * 900_000; moment < start + length; moment += 900_000) {
    const name = dayName(moment, zone);
    if (name !== previous) starts.push(moment);
    previous = name;
  }
  return starts;
}

function Head({ work, now }: { work: Work; now: number }) {
  const { assignment, window } = work;
  const facts = [
    assignment.course,
    window.timed
      ? work.own_handover_minutes === 0
        ? `${work.own_writing_minutes} min, writing and sending together`
        : `${work.own_writing_minutes} min writing, ${work.own_handover_minutes} min handover`
      : work.questions !== null && count(work.questions, "question"),
    work.handed_in_at
      ? `handed in ${dayAndTime(work.handed_in_at, assignment.time_zone)}, edition ${work.edition}`
      : work.folio_id !== null && `${count(work.pages, "page")} gathered`,
  ].filter(Boolean);
  return (
    <div className="time-line-head">
      <h2>{assignment.title}</h2>
      <p className="soft">
        {facts.join(" · ")}
        {work.changed && <strong className="red"> · changed since, not handed in yet</strong>}
      </p>
      {work.askings.map((one) => (
        <p key={one.id}>
          <Link className="red" to={`/folios/${work.folio_id}${one.page === null ? "" : `?asked=${one.page}`}`}>
            {one.number === null ? "Asked for again" : `Page ${one.number} is asked for again`}
          </Link>{" "}
          until {dayAndTime(one.until, assignment.time_zone)}
        </p>
      ))}
      <Doors work={work} now={now} />
    </div>
  );
}

function Doors({ work, now }: { work: Work; now: number }) {
  const open = now < Date.parse(work.window.closes);
  const brief = `/assignments/${work.assignment.id}`;
  if (work.folio_id !== null && work.edition !== null)
    return (
      <p className="time-line-doors">
        {work.returned && (
          <Door to={`/folios/${work.folio_id}/returned`} first>
            {work.returned.points === null ? "Your marked work" : `Your marks: ${pointsWords(work.returned.points)} of ${pointsWords(work.returned.most ?? "0")}`}
          </Door>
        )}
        <Door to={`/folios/${work.folio_id}/editions/${work.edition}`}>Receipt</Door>
        {(open || work.changed) && (
          <Door to={`/folios/${work.folio_id}`} first={work.changed !== null}>
            Open the board
          </Door>
        )}
      </p>
    );
  if (work.folio_id !== null)
    return (
      <p className="time-line-doors">
        <Door to={`/folios/${work.folio_id}`} first={open}>
          Open the board
        </Door>
        <Door to={brief}>Brief</Door>
      </p>
    );
  return (
    <p className="time-line-doors">
      <Door to={brief} first={open}>
        Read the brief
      </Door>
    </p>
  );
}

function Door({ to, first = false, children }: { to: string; first?: boolean; children: string }) {
  return (
    <LinkButton to={to} first={first} small>
      {children}
    </LinkButton>
  );
}

function Bar({ work, now, at }: { work: Work; now: number; at: (moment: number) => number }) {
  const { window, assignment } = work;
  const zone = assignment.time_zone;
  const sitting = window.timed && window.begun ? window.begun : null;
  const left = at(Date.parse(sitting ?? window.opens));
  const due = endOf(work);
  const across = (from: number, to: number): CSSProperties => ({ left: `${from}%`, width: `${Math.max(0, to - from)}%` });
  const latest = window.latest_full_begin && !window.begun ? Date.parse(window.latest_full_begin) : null;
  const gone = Math.min(now, due);
  return (
    <>
      <span className={`bar ${work.edition ? "bar-done" : ""}`} style={across(left, at(due))} />
      {!work.edition && !window.timed && <span className="bar bar-gone" style={across(left, at(gone))} />}
      {latest !== null && latest > now && <i className="bar-latest" style={{ left: `${at(latest)}%` }} />}
      {latest !== null && latest > now && (
        <Note at={at(latest)} above>
          begin by <strong>{dayAndTime(latest, zone)}</strong> for your full time
        </Note>
      )}
      <Note at={at(due)}>
        {work.edition && now < Date.parse(window.closes) ? "can be replaced until " : sitting ? "closes " : "due "}
        <strong>{dayAndTime(due, zone)}</strong>
        {isRunning(work, now) && !work.edition && <strong className="red"> · {lengthOfTime(due - now)} left</strong>}
        {window.late_until && ` · late until ${dayAndTime(window.late_until, zone)}`}
      </Note>
    </>
  );
}

/** A line of text at a moment: to its right in the first half, to its left in the second, so that none is clipped. */
function Note({ at, above = false, children }: { at: number; above?: boolean; children: React.ReactNode }) {
  const side = at > 50 ? { right: `${100 - at}%` } : { left: `${at}%` };
  return (
    <span className={`time-line-note ${above ? "time-line-above" : ""}`} style={side}>
      {children}
    </span>
  );
}
