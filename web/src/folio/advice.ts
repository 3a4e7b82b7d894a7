import type { Schemas } from "../shared/api/client";
import type { Arrangement } from "./arrangement";

type Advice = Schemas["AdviceOut"];

/** The advice for a page that still holds: not waved away, and not about a page that has left. Weightiest first. */
export function adviceOf(page: Schemas["PageOut"], arrangement: Arrangement): Advice[] {
  const dismissed = arrangement.dismissed[page.id] ?? [];
  const gone = (other: number | null) => other !== null && arrangement.removed.includes(other);
  return page.advice.filter((one) => !dismissed.includes(one.code) && !gone(one.other));
}

/** For where there is room for two words. */
export const SHORT: Record<Advice["code"], string> = {
  damaged: "damaged file",
  no_page: "no page of work?",
  sheet_cut_off: "cut off",
  out_of_focus: "out of focus",
  motion_blur: "smeared",
  two_sheets: "two sheets",
  over_exposed: "too bright",
  under_exposed: "too dark",
  glare: "mirrored light",
  faint_ink: "faint writing",
  low_resolution: "few pixels",
  small_writing: "small writing",
  sheet_small: "too far away",
  curved: "paper not flat",
  seen_before: "same sheet twice?",
  taken_before: "older picture?",
  turn_unsure: "which way up?",
  sheet_not_found: "edges not found",
  shadow_edge: "shadow edge",
  uneven_light: "uneven light",
  nearly_empty: "nearly empty",
};
