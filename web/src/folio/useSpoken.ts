import { useState } from "react";
import type { Schemas } from "../shared/api/client";
import { eventsOf } from "./eventWords";
import type { End } from "./sitting";
import { lengthOfTime } from "../shared/time";

const MINUTES = [60, 30, 15, 10, 5, 2, 1];

/** The step a moment lies in: which end comes next, and which of the spoken minutes before it has passed. */
export function step(next: End | null, now: number): string {
  if (!next) return "closed";
  const left = (next.at - now) / 60_000;
  return `${next.words} ${MINUTES.filter((minutes) => left <= minutes).at(-1) ?? ""}`;
}

/** What a screen reader is told of the time: when another part begins, at a few minutes before its end, and when time is given. */
export function useSpoken(next: End | null, events: readonly Schemas["RecordedEvent"][], now: number): string {
  const given = eventsOf(events, "lengthened");
  const here = `${step(next, now)} ${given.length}`;
  const [heard, setHeard] = useState({ step: here, given: given.length, words: "" });
  if (heard.step !== here) {
    const more = given.length > heard.given ? `Your instructor gave you ${given.at(-1)?.minutes ?? 0} more minutes. ` : "";
    const left = next ? `${lengthOfTime(next.at - now)} ${next.words}.` : "The sitting has closed.";
    setHeard({ step: here, given: given.length, words: more + left });
  }
  return heard.words;
}
