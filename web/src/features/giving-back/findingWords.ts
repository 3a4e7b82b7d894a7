import type { Schemas } from "../../shared/api/client";
import { list } from "../../shared/words";

type Finding = Schemas["FindingOut"];
const NAMED = 4;

/** What to look at before marks are given back: "1a, 2b and 3 have no points". */
export function findingWords({ code, labels }: Finding): string {
  const named = labels.length > NAMED ? `${labels.slice(0, NAMED).join(", ")} and ${labels.length - NAMED} more` : list(labels);
  const has = labels.length === 1 ? "has" : "have";
  switch (code) {
    case "unmarked":
      return `${named} ${has} no points`;
    case "differs":
      return `two markers differ on ${named}`;
    case "look_again":
      return `${named} changed after marking`;
    case "above":
      return `${named} ${has} more than the most`;
    case "asked_again":
      return "something is asked for again";
  }
}
