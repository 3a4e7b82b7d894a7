import type { Schemas } from "../shared/api/client";
import { list } from "../shared/words";
import "./Judgement.css";
import { type PaperRule, RULE_WORDS, rulesSeen } from "./PaperRules";

/** What came of a test picture: as a page of work would be judged, and what it shows of the paper's rules. */
export function Judgement({ picture, rules }: { picture: Schemas["TestPictureOut"]; rules: readonly PaperRule[] }) {
  if (picture.state === "waiting") return <p role="status">The test picture has arrived. It is being looked at …</p>;
  if (picture.state === "failed")
    return (
      <p role="status">
        <strong>The test picture arrived, but cannot be used.</strong> {picture.message}
      </p>
    );
  const { kept } = rulesSeen(rules, picture.advice);
  return (
    <div className="judgement" role="status">
      <p>
        <strong>{picture.advice.length === 0 ? "The test picture arrived and is good." : "The test picture arrived."}</strong>{" "}
        {kept.length > 0 && picture.advice.length > 0 && `Well done: ${list(kept.map((rule) => RULE_WORDS[rule].short))}.`}
      </p>
      {picture.advice.length > 0 && (
        <ul>
          {picture.advice.map((one) => (
            <li key={one.code}>
              <strong>{one.seen}</strong> {one.do}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
