import type { Schemas } from "../shared/api/client";

type Question = Pick<Schemas["QuestionOut"], "id" | "label" | "question" | "part">;

/** The labels of these questions as one would type them, in the order of the map: "1b 2a-d 4". */
export function labelWords(ids: readonly string[], map: readonly Question[]): string {
  const wanted = new Set(ids);
  const runs: Question[][] = [];
  map.forEach((one, at) => {
    if (!wanted.has(one.id)) return;
    const run = runs.at(-1);
    if (run?.at(-1) === map[at - 1] && run?.[0]?.question === one.question) run.push(one);
    else runs.push([one]);
  });
  return runs
    .flatMap((run) => (run.length < 3 ? run.map((one) => one.label) : [`${run[0]?.label}-${run.at(-1)?.part}`]))
    .join(" ");
}

/** The label of one question. */
export function labelOf(id: string, map: readonly Question[]): string {
  return map.find((one) => one.id === id)?.label ?? "";
}
