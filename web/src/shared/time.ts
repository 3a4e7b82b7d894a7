import { useEffect, useState } from "react";

const KEPT = "inked-folio-server-ahead";
const FAR_OFF_MS = 60_000;

/**
 * How far this device's clock is behind the server's, in milliseconds; set by every answer that carries `now`, and kept,
 * so that a page opened without a network counts right.
 */
let serverAhead = kept();

export function correctClock(serverNow: string) {
  serverAhead = Date.parse(serverNow) - Date.now();
  try {
    localStorage.setItem(KEPT, String(serverAhead));
  } catch {
    // a browser that keeps nothing asks again
  }
}

function kept(): number {
  try {
    return Number(localStorage.getItem(KEPT) ?? 0) || 0;
  } catch {
    return 0;
  }
}

/** "4 min slow", when this device's clock is more than a minute off; else nothing. */
export function deviceClockIsOff(): string {
  if (Math.abs(serverAhead) < FAR_OFF_MS) return "";
  const off = Math.round(Math.abs(serverAhead) / 60_000) * 60_000;
  return `${lengthOfTime(off)} ${serverAhead > 0 ? "slow" : "fast"}`;
}

export function serverNow(): number {
  return Date.now() + serverAhead;
}

/** The server's moment, again every `everyMs`. */
export function useNow(everyMs = 1000): number {
  const [now, setNow] = useState(serverNow);
  useEffect(() => {
    const timer = setInterval(() => setNow(serverNow()), everyMs);
    return () => clearInterval(timer);
  }, [everyMs]);
  return now;
}

type Parts = Intl.DateTimeFormatOptions;
const formats = new Map<string, Intl.DateTimeFormat>();

/** Made once: to make one takes a thousand times as long as to use it. */
function format(timeZone: string, parts: Parts): Intl.DateTimeFormat {
  const name = `${timeZone} ${Object.keys(parts).join()}`;
  const made = formats.get(name) ?? new Intl.DateTimeFormat("en-GB", { timeZone, ...parts });
  formats.set(name, made);
  return made;
}

const CLOCK: Parts = { hour: "2-digit", minute: "2-digit" };
const TO_THE_SECOND: Parts = { ...CLOCK, second: "2-digit" };
const DAY: Parts = { weekday: "short", day: "numeric" };
const DAY_AND_MONTH: Parts = { ...DAY, month: "short" };

export function clockTime(moment: string | number, timeZone: string, seconds = false): string {
  return format(timeZone, seconds ? TO_THE_SECOND : CLOCK).format(new Date(moment));
}

export function dayName(moment: string | number, timeZone: string): string {
  return format(timeZone, DAY).format(new Date(moment));
}

/** "Thu 26 Nov 15:00" */
export function dayAndTime(moment: string | number, timeZone: string): string {
  const day = format(timeZone, DAY_AND_MONTH);
  return `${day.format(new Date(moment)).replace(",", "")} ${clockTime(moment, timeZone)}`;
}

/** "UTC−4", for saying which clock all times are of. */
export function zoneOffset(timeZone: string, at: number): string {
  const part = format(timeZone, { timeZoneName: "shortOffset" })
    .formatToParts(new Date(at))
    .find((piece) => piece.type === "timeZoneName");
  return (part?.value ?? "UTC").replace("GMT", "UTC").replace("-", "−");
}

/** What is left, as a person says it: "5 min 30 s", "2 h 10 min", "3 days". */
export function lengthOfTime(milliseconds: number): string {
  const seconds = Math.max(0, Math.floor(milliseconds / 1000));
  const [days, hours, minutes] = [Math.floor(seconds / 86400), Math.floor(seconds / 3600), Math.floor(seconds / 60)];
  if (days >= 2) return `${days} days`;
  if (hours >= 1) return `${hours} h ${minutes % 60} min`;
  if (minutes >= 10) return `${minutes} min`;
  return minutes >= 1 ? `${minutes} min ${seconds % 60} s` : `${seconds} s`;
}

/** The time of day in that zone as it is typed and sent: "2026-11-27T09:00". */
export function wallTime(moment: string, zone: string): string {
  return new Date(moment).toLocaleString("sv-SE", { timeZone: zone }).replace(" ", "T").slice(0, 16);
}
