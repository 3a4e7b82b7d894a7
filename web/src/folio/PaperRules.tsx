import type { Schemas } from "../shared/api/client";
import "./PaperRules.css";

export type PaperRule = Schemas["BriefOut"]["paper_rules"][number];
type AdviceCode = Schemas["AdviceOut"]["code"];

/** Each in the words a student reads, and in those an instructor picks it by. */
export const RULE_WORDS: Record<PaperRule, { says: string; short: string }> = {
  dark_ink: { says: "Write with a dark pen: blue or black reads better than pencil.", short: "dark ink" },
  write_large: { says: "Write large, with room between the lines.", short: "write large" },
  label_in_margin: { says: "The label of each part in the margin, where its answer begins.", short: "label in the margin" },
  one_question_a_page: { says: "One question a page: begin each on a fresh side.", short: "one question a page" },
  circle_final_answer: { says: "Circle the final answer of each part.", short: "circle the final answer" },
  name_on_each: { says: "Your name and number on each sheet.", short: "name and number on each sheet" },
  portrait: { says: "Hold the phone upright: the sheet in portrait, all of it in the picture.", short: "portrait, the whole sheet" },
  flat: { says: "Lay the sheet flat on something darker than paper, the lamp or window at your side.", short: "flat and evenly lit" },
  hold_still: { says: "Photograph from straight above, and hold still.", short: "hold still" },
};
export const ALL_RULES = Object.keys(RULE_WORDS) as PaperRule[];

/** What the page check can see of a rule in a picture. */
const SEEN_BY: Partial<Record<PaperRule, readonly AdviceCode[]>> = {
  dark_ink: ["faint_ink"],
  write_large: ["small_writing"],
  portrait: ["sheet_cut_off", "sheet_small", "two_sheets"],
  flat: ["glare", "uneven_light", "shadow_edge", "under_exposed", "over_exposed", "sheet_not_found"],
  hold_still: ["out_of_focus", "motion_blur"],
};

/** Of these rules those that a picture shows kept, and those it does not. */
export function rulesSeen(rules: readonly PaperRule[], advice: readonly { code: AdviceCode }[]) {
  const seen = rules.filter((rule) => SEEN_BY[rule]);
  const broken = seen.filter((rule) => advice.some((one) => SEEN_BY[rule]?.includes(one.code)));
  return { kept: seen.filter((rule) => !broken.includes(rule)), broken };
}

/** What the instructor asks of paper, pen and picture. */
export function PaperRules({ rules }: { rules: readonly PaperRule[] }) {
  if (rules.length === 0) return null;
  return (
    <section className="hints">
      <h2>Paper and pen</h2>
      <ul>
        {ALL_RULES.filter((rule) => rules.includes(rule)).map((rule) => (
          <li key={rule}>{RULE_WORDS[rule].says}</li>
        ))}
      </ul>
    </section>
  );
}
