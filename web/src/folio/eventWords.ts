import type { Schemas } from "../shared/api/client";
import { clockTime, dayAndTime } from "../shared/time";
import { count } from "../shared/words";

type Recorded = Schemas["RecordedEvent"];
type Event = Recorded["event"];
type Kind = Event["kind"];
type LabelChange = Schemas["LabelChange"];

/** The events of one kind, with the fields of that kind. */
export function eventsOf<K extends Kind>(events: readonly Recorded[], kind: K) {
  return events.flatMap(({ at, event }) => (event.kind === kind ? [{ at, ...(event as Extract<Event, { kind: K }>) }] : []));
}

/** "4 files in · 10 min given · edition 2" */
export function happened(events: readonly Recorded[]): string {
  const files = eventsOf(events, "arrived").length;
  const minutes = eventsOf(events, "lengthened").reduce((all, event) => all + event.minutes, 0);
  const last = events.filter(({ event }) => event.kind === "handed_in" || event.kind === "taken_back").at(-1)?.event;
  const edition = last?.kind === "handed_in" && last.edition;
  return [files > 0 && `${count(files, "file")} in`, minutes > 0 && `${minutes} min given`, edition && `edition ${edition}`]
    .filter(Boolean)
    .join(" · ");
}

/** In a few words, for a tick of the time rail. */
export function tickWords(event: Event): string {
  switch (event.kind) {
    case "begun":
      return "begun";
    case "arrived":
      return "1 file in";
    case "pledged":
      return `${count(event.pages.length, "page")} promised`;
    case "handed_in":
      return `edition ${event.edition}`;
    case "taken_back":
      return "taken back";
    case "lengthened":
      return `${event.minutes} min given`;
    case "amended":
      return "times changed";
    case "map_changed":
      return "question map changed";
    case "told":
      return "a word from staff";
    case "asked_again":
      return event.number === null ? "asked for again" : `page ${event.number} asked for again`;
    default:
      return event.kind.replaceAll("_", " ");
  }
}

/** One event of a folio's record as a sentence. */
export function eventWords(event: Event, zone: string): string {
  switch (event.kind) {
    case "begun":
      return "Began";
    case "arrived": {
      const promised = event.promised_at ? `, promised ${clockTime(event.promised_at, zone, true)}` : "";
      return `${event.file_name} is safe${promised} · SHA-256 ${event.sha256}`;
    }
    case "pledged":
      return `Promised ${count(event.pages.length, "page")}: ${event.pages.map((page) => page.file_name).join(", ")}`;
    case "failed":
      return `A file could not be opened (${event.trouble.replaceAll("_", " ")})`;
    case "arranged":
      return `Order or places changed (version ${event.version})`;
    case "retaken":
      return "A page was taken again";
    case "handed_in":
      return `Edition ${event.edition} handed in${event.by_itself ? " by itself" : ""}${event.verdict === "late" ? ", late" : ", in time"}`;
    case "taken_back":
      return `Took back edition ${event.edition}: nothing is handed in`;
    case "bound":
      return `Edition ${event.edition} bound · SHA-256 ${event.sha256}`;
    case "lengthened":
      return `${event.by} gave ${count(event.minutes, "minute")}`;
    case "amended":
      return `The times were changed: closes ${dayAndTime(event.closes_now, zone)}, was ${dayAndTime(event.closed_before, zone)}`;
    case "told":
      return `${event.by}: “${event.text}”`;
    case "heard":
      return `The board has shown ${event.words === 1 ? "the word of staff" : `all ${event.words} words of staff so far`}`;
    case "confirmed": {
      const words = (places: readonly Schemas["ReadPlace"][]) =>
        places.map((one) => `${one.label} on page ${one.page} (${Math.round(one.confidence * 100)} %)`).join(", ");
      const parts = [
        event.confirmed.length > 0 && `Confirmed as read: ${words(event.confirmed)}`,
        event.otherwise.length > 0 && `Placed otherwise than read: ${words(event.otherwise)}`,
      ];
      return parts.filter(Boolean).join(". ");
    }
    case "asked_again":
      return `${event.by} asked for ${againWords(event)} until ${dayAndTime(event.until, zone)}: “${event.reason}”`;
    case "asking_ended":
      return `${event.by}: ${againWords(event)} is not needed any more`;
    case "said":
      return `${event.by} (${event.staff ? "staff" : "student"}): “${event.text}”`;
    case "placed_by_reader":
      return `${event.by} ${event.taken_off ? "took" : "placed"} ${event.label} ${event.taken_off ? "off" : "on"} page ${event.page} of edition ${event.edition}, as its reader`;
    case "placed_by_sheet":
      return `A page was recognised as page ${event.sheet} of the printed paper${event.labels.length > 0 ? ` and placed: ${event.labels.join(", ")}` : ""}`;
    case "answered":
      return event.is_empty ? `Took out the answer on the screen to ${event.label}` : `Answered ${event.label} on the screen (version ${event.version})`;
    case "taken_in":
      return `${event.by} took in ${count(event.pages, "page")} for the student, counted as of ${dayAndTime(event.counts_at, zone)}: “${event.reason}”`;
    case "marks_given_back":
      return `Marks of edition ${event.edition} were given back${event.again ? " anew" : ""}`;
    case "marks_taken_back":
      return `${event.by} took the marks of edition ${event.edition} back: “${event.why}”`;
    case "mark_questioned":
      return `${event.by} (${event.staff ? "staff" : "student"}) about the mark of ${event.label}: “${event.text}”`;
    case "map_changed":
      return `${event.by} changed the question map: ${event.changes.map(changeWords).join("; ")}`;
  }
}

function againWords({ what, number }: { what: "page" | "all" | "place"; number: number | null }): string {
  if (what === "page") return `page ${number} again`;
  return what === "all" ? "all of it again" : "which pages answer what";
}

/** One change of a question map: "2c added", "3 is now called 3a". */
export function changeWords({ change, label, was }: LabelChange): string {
  if (change === "renamed") return `${was} is now called ${label}`;
  if (change === "chosen") return `now ${label}`;
  if (change === "not_chosen") return `no longer ${label}`;
  if (change === "restored") return `${label} is on the map again`;
  if (change === "answering") return `${label} is answered in another way`;
  return `${label} ${change}`;
}
