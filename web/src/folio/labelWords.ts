import type { Schemas } from "../../shared/api/client";

type Question = Pick<Schemas["QuestionOut"], "label" | "question" | "part">;

/** Labels as one would type them, in the order of the map: "1b 2a-d 4". */
export function labelWords(labels: readonly string[], map: readonly Question[]): string {
  if (labels.length < 2) return labels.join("");
  const runs: Question[][] = [];
  map.forEach((one, at) => {
    if (!labels.includes(one.label)) return;
    const run = runs.at(-1);
    if (run?.at(-1) === map[at - 1] && run?.[0]?.question === one.question) run.push(one);
    else runs.push([one]);
  });
  return runs
    .flatMap((run) => (run.length < 3 ? run.map((one) => one.label) : [`${run[0]?.label}-${run.at(-1)?.part}`]))
    .join(" ");
}
